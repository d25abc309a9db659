/** The list of learners, as the API gives it. */
import { sayWhole } from '@/core/drift/sentences';
import { IsIn, IsOptional, Matches, MaxLength } from 'class-validator';
import { BAND_WORDS, bandWord } from '@/core/drift/bands';
import type { Band } from '@/core/drift/types';
import { IsDate, IsInstant } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { dateOfDay, dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { daysQuiet } from '@/core/access/last-access';
import { enrolmentsOf } from '@/data/people/enrolments';
import { findItem } from '@/data/people/find';
import {
  LEARNER_SORTS,
  countLearners as countMatching,
  findLearner,
  learnersById,
  listLearners,
  type LearnerFilter,
  type LearnerSort,
} from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { ListQuery, limitOf, placeOf, writeCursor } from '../request/list-query';
import { isoOrNull, learnerFigures, minutes, score, type LearnerFigures } from '../request/figures';
import { InvalidInput, NotFound, readInput } from '../request/input';
import type { Runtime } from '../runtime';
import { openView } from '../request/view';

const SORTS = LEARNER_SORTS.flatMap((sort) => [sort, `-${sort}`]);
const BANDS = [...BAND_WORDS, 'no reading'];
const long = { message: 'is too long' };

class LearnersQuery extends ListQuery {
  @IsOptional() @MaxLength(200, long) q?: string;
  @IsOptional() @MaxLength(200, long) course?: string;
  @IsOptional() @MaxLength(200, long) group?: string;
  @IsOptional() @MaxLength(200, long) organisation?: string;
  @IsOptional() @Matches(/^\d{1,4}$/, { message: 'is not a number of days' }) quiet?: string;
  @IsOptional() @IsIn(['yes'], { message: 'is not yes' }) never?: 'yes';
  /** Enrolled more than this many weeks ago. */
  @IsOptional() @Matches(/^\d{1,3}$/, { message: 'is not a number of weeks' }) enrolled_weeks?: string;
  /** Not contacted for this many days. */
  @IsOptional() @Matches(/^\d{1,4}$/, { message: 'is not a number of days' }) not_contacted?: string;
  /** An item, as COURSE/ITEM: who has opened it. */
  @IsOptional() @Matches(/^[^/]{1,200}\/.{1,200}$/, { message: 'is not written COURSE/ITEM' }) opened?: string;
  /** … and who never has. */
  @IsOptional() @Matches(/^[^/]{1,200}\/.{1,200}$/, { message: 'is not written COURSE/ITEM' }) not_opened?: string;
  /** Only on these days, both included; beside opened or not_opened. */
  @IsOptional() @IsDate() opened_from?: string;
  @IsOptional() @IsDate() opened_to?: string;
  /** Beside opened: last opened at this instant or later, or first. */
  @IsOptional() @IsInstant() opened_since?: string;
  @IsOptional() @IsInstant() first_opened_since?: string;
  /** A past date, as of whose end the list is. */
  @IsOptional() @IsDate() as_of?: string;
  @IsOptional() @IsIn(BANDS, { message: `is not one of ${BANDS.join(', ')}` }) band?: string;
  @IsOptional() @IsIn(['active', 'all'], { message: 'is not active or all' }) status?: 'active' | 'all';
  @IsOptional()
  @IsIn(SORTS, { message: `is not one of ${LEARNER_SORTS.join(', ')}, with - before it for descending` })
  sort?: string;
}

const OPENED_BESIDE = ['opened_from', 'opened_to', 'opened_since', 'first_opened_since'] as const;

function filterOf({ zone }: Runtime, view: View, query: LearnersQuery): LearnerFilter {
  const today = dayOf(view.now, zone);
  const band = BAND_WORDS.indexOf(query.band as (typeof BAND_WORDS)[number]);
  return {
    q: query.q,
    lastBefore: query.quiet === undefined ? undefined : startOfDay(today - Number(query.quiet) + 1, zone),
    band: query.band === undefined ? undefined : band < 0 ? 'none' : (band as Band),
    never: query.never === 'yes',
    enrolledBefore: query.enrolled_weeks === undefined ? undefined : today - Number(query.enrolled_weeks) * 7,
    notContactedSince:
      query.not_contacted === undefined ? undefined : startOfDay(today - Number(query.not_contacted) + 1, zone),
    status: query.status,
  };
}

/** @throws InvalidInput, NotFound for a course, group or organisation that is not there */
export async function learnerList(
  runtime: Runtime,
  viewer: Viewer,
  values: Record<string, unknown>,
  /** Rows passed over, where a page is known by its number. */
  offset = 0,
) {
  const query = readInput(LearnersQuery, values);
  const { course, group, organisation } = query;
  const view = await openView(runtime, viewer, { course, group, organisation }, query.as_of);
  const filter = { ...filterOf(runtime, view, query), item: await itemOf(runtime, viewer, query) };
  const sort = (query.sort ?? 'name').replace('-', '') as LearnerSort;
  const place = placeOf(query);
  const limit = limitOf(query);
  const after = place ? { by: place[0], id: Number(place[1]) } : undefined;
  const page = { limit, offset, after, sort, descending: query.sort?.startsWith('-') ?? false };
  const { rows, total, last } = await listLearners(runtime.db, view, filter, page);
  const next = last ? writeCursor([last.by, last.id]) : null;
  return { query, total, view, rows, next };
}

/** The item that the list is about. @throws InvalidInput for one that is not there */
async function itemOf({ db, zone }: Runtime, viewer: Viewer, query: LearnersQuery): Promise<LearnerFilter['item']> {
  const field = query.opened !== undefined ? 'opened' : 'not_opened';
  const name = query[field];
  const beside = OPENED_BESIDE.find((one) => query[one] !== undefined);
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
  const day = (date: string | undefined) => (date === undefined ? undefined : dayFromDate(date)!);
  const instant = (text: string | undefined) => (text === undefined ? undefined : parseInstant(text, zone)!);
  const [fromDay, toDay] = [day(query.opened_from), day(query.opened_to)];
  if (fromDay !== undefined && toDay !== undefined && toDay < fromDay) {
    throw new InvalidInput([{ field: 'opened_to', message: 'lies before opened_from' }]);
  }
  return {
    id: item.id,
    courseId: item.course_id,
    opened: field === 'opened',
    fromDay,
    toDay,
    lastSince: instant(query.opened_since),
    firstSince: instant(query.first_opened_since),
  };
}

/** Ids of all who match, for an action on them. @throws InvalidInput, NotFound */
export async function everyMatching(
  runtime: Runtime,
  viewer: Viewer,
  values: Record<string, unknown>,
): Promise<number[]> {
  const { rows } = await learnerList(runtime, viewer, {
    ...values,
    limit: undefined,
    cursor: undefined,
    format: 'csv',
  });
  return rows.map((row) => row.id);
}

/** How many learners with an active enrolment the viewer sees in all: the whole that a list is a part of. */
export async function countLearners(runtime: Runtime, viewer: Viewer): Promise<number> {
  return countMatching(runtime.db, await openView(runtime, viewer), {});
}

export type LearnerDetail = LearnerFigures & { enrolments: Record<string, unknown>[] };

/** One learner with every enrolment in the viewer's scope. @throws NotFound */
export async function learnerDetail(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<LearnerDetail> {
  const { db, clock, zone } = runtime;
  const view = await openView(runtime, viewer);
  const id = await findLearner(db, viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  const [[row], enrolments] = await Promise.all([learnersById(db, view, [id]), enrolmentsOf(db, view, [id])]);
  return {
    ...learnerFigures(view.now, zone, row),
    enrolments: enrolments.map((e) => ({
      course: e.course,
      group: e.group,
      enrolled_on: dateOfDay(e.enrolled_day),
      status: e.status,
      last_access: isoOrNull(e.last_at),
      days_quiet: daysQuiet(e.last_at, clock.now(), zone),
      minutes_online: minutes(e.ms),
      // Not computed yet: null is "no reading", never zero.
      headway: null,
      overdue: null,
      attendance_rate: null,
      grade: null,
      drift: score(e.score),
      band: bandWord(e.band),
      reasons: e.explanation.reasons.map((reason) => ({ ...reason, says: sayWhole(reason.says) })),
    })),
  };
}
