/** What the list of learners can be asked for, and what the data layer is asked then. */
import { IsIn, IsOptional, Matches, MaxLength } from 'class-validator';
import { BAND_WORDS } from '@/core/drift/bands';
import { sayDay, sayCount } from '@/core/time/words';
import { HOUR, dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { findItem } from '@/data/people/find';
import type { Condition, LearnerColumn } from '@/data/people/learner-columns';
import type { LearnerFilter } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { AsCount, AsDay, AsInstant, InvalidInput } from '../request/input';
import { Filter, conditionsOf, type At, type Params } from '../request/list';
import { SortedBy } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import type { Runtime } from '../runtime';
import { LEARNER_LIST_COLUMNS } from './learner-columns';

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

/** What the list of learners can be asked for. */
export class LearnersQuery extends SegmentQuery {
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

/** The filter and the order of a query, for a view of its part. @throws InvalidInput for an item that is not there */
export async function filterAsked(runtime: Pick<Runtime, 'db' | 'zone'>, view: DriftView, query: LearnersQuery) {
  const { zone } = runtime;
  const { q, status, not_contacted } = query;
  const at = { now: view.now, zone };
  const filter: LearnerFilter = {
    q,
    status,
    where: conditionsOf<Condition>(query, at),
    notContactedSince: not_contacted === undefined ? undefined : daysAgo(not_contacted, at),
    item: await itemOf(runtime, view.viewer, query),
  };
  const by = (query.sort ?? 'name').replace('-', '') as LearnerColumn;
  return { filter, sort: { sort: by, descending: query.sort?.startsWith('-') ?? false } };
}

/** The item that the list is about. @throws InvalidInput for one that is not there */
async function itemOf(
  { db }: Pick<Runtime, 'db'>,
  viewer: Viewer,
  query: LearnersQuery,
): Promise<LearnerFilter['item']> {
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
