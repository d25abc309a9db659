/** The list of learners: what it can be asked for, and how it is read. */
import { countLearners as countMatching, listLearners, matchingIds, type LearnerRow } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { readStaffSetting, writeStaffSetting } from '@/data/settings';
import { readInput, type Values } from '../request/input';
import { cellsOf, readColumns, type At, type List } from '../request/list';
import { limitOf, placeOf, writeCursor } from '../request/list-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import {
  LEARNER_LIST_COLUMNS,
  USUAL_COLUMNS,
  personOfLine,
  type LearnerLine,
  type ListColumn,
} from './learner-columns';
import { LearnersQuery, filterAsked } from './learner-query';

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
  const query = readInput(LearnersQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  return { query, view, ...(await filterAsked(runtime, view, query)) };
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

/** How many learners with an active enrolment the viewer sees in all: the whole that a list is a part of. */
export async function countLearners(runtime: Runtime, viewer: Viewer): Promise<number> {
  return countMatching(runtime.db, await openDriftView(runtime, viewer), {});
}
