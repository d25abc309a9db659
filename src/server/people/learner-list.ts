/** The list of learners: what it can be asked for, and how it is read. */
import { IsIn, IsOptional, Matches, MaxLength } from 'class-validator';
import { BAND_WORDS } from '@/core/drift/bands';
import { sayDay, sayCount } from '@/core/time/words';
import { HOUR, dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { findItem } from '@/data/people/find';
import type { Condition, LearnerColumn } from '@/data/people/learner-columns';
import {
  countLearners as countMatching,
  listLearners,
  matchingIds,
  type LearnerFilter,
  type LearnerRow,
} from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { readStaffSetting, writeStaffSetting } from '@/data/settings';
import { AsCount, AsDay, AsInstant, InvalidInput, readInput, type Values } from '../request/input';
import { Filter, cellsOf, conditionsOf, readColumns, type At, type List, type Params } from '../request/list';
import { limitOf, placeOf, SortedBy, writeCursor } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import {
  LEARNER_LIST_COLUMNS,
  USUAL_COLUMNS,
  personOfLine,
  type LearnerLine,
  type ListColumn,
} from './learner-columns';

const SORTS = Object.values(LEARNER_LIST_COLUMNS).map(({ sort }) => sort);
const BANDS = [...BAND_WORDS, 'no reading'];
/** An item is written with its course. */
const ITEM = [/^[^/]{1,200}\/.{1,200}$/, { message: 'is not written COURSE/ITEM' }] as const;

/** The beginning of the day before so many days ago: who was last there before it has been quiet for as long. */
function daysAgo(days: number, { now, zone }: At): number {
  return startOfDay(dayOf(now, zone) - days + 1, zone);
}

const OPENED_WHEN = ['opened_from', 'opened_to', 'opened_since', 'first_opened_since'] as const;

/** When an item was opened, as the link has it. */
function sayOpenedWhen({ opened_from, opened_to, opened_since, first_opened_since }: Params): string {
  const day = (date: string) => sayDay(dayFromDate(date.slice(0, 10)) ?? 0);
  const days =
    opened_from && opened_from === opened_to
      ? ` on ${day(opened_from)}`
      : `${opened_from ? ` from ${day(opened_from)}` : ''}${opened_to ? ` to ${day(opened_to)}` : ''}`;
  const since = opened_since ? `, last since ${day(opened_since)}` : '';
  return `${days}${since}${first_opened_since ? `, first since ${day(first_opened_since)}` : ''}`;
}

class LearnersQuery extends SegmentQuery {
  @Filter({ help: 'any part of a name, id, e-mail or phone' })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  q?: string;

  @Filter({
    help: 'last there so many days ago or longer, or never',
    says: (days) => `Quiet ${sayCount(Number(days), 'day')} or more`,
    control: { as: 'count', label: 'Quiet, days or more', start: 7 },
    where: (days: number, at): Condition => ({ column: 'last_access', is: 'before or none', value: daysAgo(days, at) }),
  })
  @IsOptional()
  @AsCount('days', 9999)
  quiet?: number;

  @Filter({
    help: '`yes` for who has never been there',
    says: () => 'Never accessed',
    control: { as: 'press', label: 'Never accessed', value: 'yes' },
    where: (): Condition => ({ column: 'last_access', is: 'none' }),
  })
  @IsOptional()
  @IsIn(['yes'], { message: 'is not yes' })
  never?: 'yes';

  @Filter({
    help: 'nobody has tried to reach them for so many days',
    says: (days) => `Not contacted for ${sayCount(Number(days), 'day')}`,
    control: { as: 'count', label: 'Not contacted, days', start: 14 },
  })
  @IsOptional()
  @AsCount('days', 9999)
  not_contacted?: number;

  @Filter({
    help: 'enrolled more than so many weeks ago',
    says: (weeks) => `Enrolled more than ${sayCount(Number(weeks), 'week')} ago`,
    control: { as: 'count', label: 'Enrolled more than, weeks ago', start: 4 },
    where: (weeks: number, { now, zone }): Condition => ({
      column: 'enrolled',
      is: 'before',
      value: dayOf(now, zone) - weeks * 7,
    }),
  })
  @IsOptional()
  @AsCount('weeks', 999)
  enrolled_weeks?: number;

  @Filter({
    help: 'less than so many hours online in all, as far as can be told',
    says: (hours) => `Online less than ${sayCount(Number(hours), 'hour')}`,
    control: { as: 'count', label: 'Online less than, hours', start: 1 },
    where: (hours: number): Condition => ({ column: 'minutes_online', is: 'before', value: hours * HOUR }),
  })
  @IsOptional()
  @AsCount('hours', 9999)
  online_under?: number;

  @Filter({
    help: 'so many items or more are overdue',
    says: (items) => `${items} or more overdue`,
    control: { as: 'count', label: 'Overdue, items or more', start: 3 },
    where: (items: number): Condition => ({ column: 'overdue', is: 'at least', value: items }),
  })
  @IsOptional()
  @AsCount('items', 9999)
  overdue?: number;

  @Filter({
    help: BANDS.join(', '),
    says: (band) => band[0].toUpperCase() + band.slice(1),
    control: { as: 'presses', label: 'Band', values: [...BAND_WORDS].reverse().concat('no reading' as never) },
    where: (band: string): Condition => {
      const place = BAND_WORDS.indexOf(band as (typeof BAND_WORDS)[number]);
      return place < 0 ? { column: 'band', is: 'none' } : { column: 'band', is: 'the same as', value: place };
    },
  })
  @IsOptional()
  @IsIn(BANDS, { message: `is not one of ${BANDS.join(', ')}` })
  band?: string;

  @Filter({
    help: 'who has opened an item, as COURSE/ITEM',
    says: (item, params) => `Opened ${item}${sayOpenedWhen(params)}`,
    clears: OPENED_WHEN,
    turned: {
      says: 'who has not',
      params: (params) => ({
        ...params,
        opened: undefined,
        opened_since: undefined,
        first_opened_since: undefined,
        not_opened: params.opened,
      }),
    },
  })
  @IsOptional()
  @Matches(...ITEM)
  opened?: string;

  @Filter({
    help: 'who never has',
    says: (item, params) =>
      params.opened_from || params.opened_to ? `Did not open ${item}${sayOpenedWhen(params)}` : `Never opened ${item}`,
    clears: OPENED_WHEN,
    turned: {
      says: 'who has opened it',
      params: (params) => ({ ...params, not_opened: undefined, opened: params.not_opened }),
    },
  })
  @IsOptional()
  @Matches(...ITEM)
  not_opened?: string;

  @Filter({ help: 'beside either: only from this day on' }) @IsOptional() @AsDay() opened_from?: number;
  @Filter({ help: 'beside either: only up to this day' }) @IsOptional() @AsDay() opened_to?: number;
  @Filter({ help: 'beside `opened`: last at this time or later' }) @IsOptional() @AsInstant() opened_since?: number;
  @Filter({ help: 'beside `opened`: first at this time or later' })
  @IsOptional()
  @AsInstant()
  first_opened_since?: number;

  @Filter({
    help: '`all` with those who have left',
    says: () => 'With those who have left',
    control: { as: 'press', label: 'With those who have left', value: 'all' },
  })
  @IsOptional()
  @IsIn(['active', 'all'], { message: 'is not active or all' })
  status?: 'active' | 'all';

  @Filter({ help: 'a past date, as of whose end the list is' })
  @IsOptional()
  @AsDay()
  as_of?: number;

  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;
}

/** @throws InvalidInput, NotFound for a course, group or organisation that is not there */
export async function learnerList(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  /** Rows passed over, where a page is known by its number. */
  offset = 0,
) {
  const { query, view, filter, sort } = await learnersAsked(runtime, viewer, values);
  const place = placeOf(query);
  const limit = limitOf(query);
  const after = place ? { by: place[0], id: Number(place[1]) } : undefined;
  const page = { limit, offset, after, ...sort };
  const { rows, total, last } = await listLearners(runtime.db, view, filter, page);
  const next = last ? writeCursor([last.by, last.id]) : null;
  return { query, total, view, rows, next, now: view.now, zone: runtime.zone };
}

/** What the list is asked for, as the data layer is. @throws InvalidInput, NotFound as learnerList does */
async function learnersAsked(runtime: Runtime, viewer: Viewer, values: Values) {
  const { zone } = runtime;
  const query = readInput(LearnersQuery, values, zone);
  const { course, group, organisation, q, status, not_contacted } = query;
  const view = await openDriftView(runtime, viewer, { course, group, organisation }, query.as_of);
  const filter: LearnerFilter = {
    q,
    status,
    where: conditionsOf<Condition>(query, { now: view.now, zone }),
    notContactedSince: not_contacted === undefined ? undefined : daysAgo(not_contacted, { now: view.now, zone }),
    item: await itemOf(runtime, viewer, query),
  };
  const by = (query.sort ?? 'name').replace('-', '') as LearnerColumn;
  return { query, view, filter, sort: { sort: by, descending: query.sort?.startsWith('-') ?? false } };
}

/** Ids of all who match, for an action on them. @throws InvalidInput, NotFound */
export async function everyMatching(runtime: Runtime, viewer: Viewer, values: Values): Promise<number[]> {
  return (await findMatching(runtime, viewer, values)).ids;
}

/**
 * The same with what is looked at, and how many there are.
 * @param first only the first so many ids, where no more are shown
 * @throws InvalidInput, NotFound
 */
export async function findMatching(runtime: Runtime, viewer: Viewer, values: Values, first?: number) {
  const { query, view, filter, sort } = await learnersAsked(runtime, viewer, values);
  const ids = await matchingIds(runtime.db, view, filter, sort, first);
  const total = ids.length === first ? await countMatching(runtime.db, view, filter) : ids.length;
  return { query, view, ids, total };
}

export function lineOf(row: LearnerRow, at: At): LearnerLine {
  return { ...personOfLine(row), cells: cellsOf(LEARNER_LIST_COLUMNS, row, at) };
}

export const LEARNERS = {
  name: 'learners',
  path: '/learners',
  showsDrift: true,
  query: LearnersQuery,
  columns: LEARNER_LIST_COLUMNS,
  usual: USUAL_COLUMNS,
  line: lineOf,
  read: (runtime, viewer, values) => learnerList(runtime, viewer, values),
} satisfies List<LearnerRow, ListColumn>;

const SETTING = 'learner_columns';

/** The columns that somebody has chosen for themselves. */
export async function chosenColumns({ db }: Runtime, viewer: Viewer): Promise<ListColumn[]> {
  return readColumns(LEARNERS, await readStaffSetting(db, viewer.staffId, SETTING));
}

export async function chooseColumns({ db }: Runtime, viewer: Viewer, columns: readonly string[]): Promise<void> {
  await writeStaffSetting(db, viewer.staffId, SETTING, readColumns(LEARNERS, columns.join(',')).join(','));
}

/** The item that the list is about. @throws InvalidInput for one that is not there */
async function itemOf({ db }: Runtime, viewer: Viewer, query: LearnersQuery): Promise<LearnerFilter['item']> {
  const field = query.opened !== undefined ? 'opened' : 'not_opened';
  const name = query[field];
  const beside = OPENED_WHEN.find((one) => query[one] !== undefined);
  if (name === undefined) {
    if (beside) throw new InvalidInput([{ field: beside, message: 'stands beside opened, which is missing' }]);
    return undefined;
  }
  if (query.opened !== undefined && query.not_opened !== undefined) {
    throw new InvalidInput([{ field: 'not_opened', message: 'stands beside opened: give one or the other' }]);
  }
  const at = name.indexOf('/');
  const item = await findItem(db, viewer, name.slice(0, at), name.slice(at + 1));
  if (!item) throw new InvalidInput([{ field, message: `names an item that is not there: ${name}` }]);
  const { opened_from: fromDay, opened_to: toDay } = query;
  if (fromDay !== undefined && toDay !== undefined && toDay < fromDay) {
    throw new InvalidInput([{ field: 'opened_to', message: 'lies before opened_from' }]);
  }
  return {
    id: item.id,
    courseId: item.course_id,
    opened: field === 'opened',
    fromDay,
    toDay,
    lastSince: query.opened_since,
    firstSince: query.first_opened_since,
  };
}

/** How many learners with an active enrolment the viewer sees in all: the whole that a list is a part of. */
export async function countLearners(runtime: Runtime, viewer: Viewer): Promise<number> {
  return countMatching(runtime.db, await openDriftView(runtime, viewer), {});
}
