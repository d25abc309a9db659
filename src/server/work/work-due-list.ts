/** Work due: each learner's assignments with a due date, and where they stand. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { DUE_STATES, DUE_WORDS, type DueState } from '@/core/work/due';
import { cameTooLateFor } from '@/core/drift/work';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { enrolledInView } from '@/data/completion/enrolled';
import { findLearner } from '@/data/people/learners';
import { coursesOfItem } from '@/data/courses/items';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { ENROLLED_COLUMN, WorkQuery } from '../completion/work-query';
import { isoOrNull } from '../request/values';
import { AsInstant, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { requireOrder } from '../request/period';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import {
  ANY_OVERDUE,
  WORK_DUE_SORTS,
  workDueRows,
  dueItemKey,
  dueItemsOfPeople,
  rowsOfDueItems,
  type WorkDueRow,
} from './work-due-rows';

class WorkDueQuery extends WorkQuery {
  @Filter({
    help: 'an item, by its id',
    says: (item, _params, names) => `Item ${names.item ?? item}`,
    control: { as: 'choice', label: 'Item', choices: 'items' },
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  item?: string;

  @Filter({ help: 'a learner, by their id', says: (learner, _params, names) => names.learner ?? learner })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;

  @Filter({
    help: `where it stands: ${DUE_STATES.join(', ')}; or \`any_overdue\`, all that is past its date and not handed in`,
    says: (state) => (state === ANY_OVERDUE ? 'Overdue' : `Work ${DUE_WORDS[state as DueState] ?? state}`),
    control: {
      as: 'choice',
      label: 'State',
      choices: [
        { value: ANY_OVERDUE, label: 'overdue, begun or not' },
        ...DUE_STATES.map((value) => ({ value, label: DUE_WORDS[value] })),
      ],
    },
  })
  @IsOptional()
  @IsIn([ANY_OVERDUE, ...DUE_STATES], { message: `is not one of ${[ANY_OVERDUE, ...DUE_STATES].join(', ')}` })
  state?: DueState | typeof ANY_OVERDUE;

  @Filter({
    help: 'due from a time on, or from a date’s beginning',
    says: (from) => `Due from ${from.slice(0, 10)}`,
  })
  @IsOptional()
  @AsInstant()
  from?: number;
  @Filter({ help: 'due before a time, or before a date', says: (to) => `Due before ${to.slice(0, 10)}` })
  @IsOptional()
  @AsInstant()
  to?: number;

  @IsOptional()
  @SortedBy(WORK_DUE_SORTS)
  sort?: string;
}

/** @throws InvalidInput, NotFound */
export async function workDue(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(WorkDueQuery, values, runtime.zone);
  const { course, group, organisation, caseload, sort = 'due', status = 'active', from, to } = query;
  if (from !== undefined && to !== undefined) requireOrder(from, to);
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const learner = query.learner === undefined ? undefined : await findLearner(runtime.db, viewer, query.learner);
  if (learner === null) throw new NotFound('No such learner');
  const today = dayOf(view.now, runtime.zone);
  const courses = query.item === undefined ? null : new Set(await coursesOfItem(runtime.db, query.item));
  const people = (await enrolledInView(runtime.db, view, status, learner === undefined ? undefined : [learner])).filter(
    ({ enrolled_day, course_id }) => enrolled_day <= today && (courses === null || courses.has(course_id)),
  );
  const dueItems = await dueItemsOfPeople(runtime.db, view, people, { ...query, sort, status });
  const { rows, next } = pageInOrder(dueItems, query, dueItemKey);
  return {
    query,
    view,
    rows: await rowsOfDueItems(runtime.db, view, rows, query.state),
    total: dueItems.length,
    next,
    now: view.now,
    zone: runtime.zone,
  };
}

/** Each learner's overdue list in words, for a message: "Quiz 3 (due Mon 9 Nov) and Sheet 2 (due Thu 12 Nov)". */
export async function overdueLists(
  runtime: Pick<Runtime, 'db' | 'zone'>,
  view: View,
  learnerIds: readonly number[],
): Promise<Map<number, string>> {
  const enrolled = await enrolledInView(runtime.db, view, 'active', learnerIds);
  const rows = (await workDueRows(runtime.db, view, enrolled, { state: ANY_OVERDUE })).sort(
    (a, b) => a.due_at - b.due_at,
  );
  const today = dayOf(view.now, runtime.zone);
  const lists = new Map<number, string>();
  const named = new Map<number, string[]>();
  for (const { enrolled: one, item, due_at } of rows) {
    const theirPieces = named.get(one.id) ?? [];
    theirPieces.push(`– ${item} (${one.course}), due ${sayDay(dayOf(due_at, runtime.zone), today)}`);
    named.set(one.id, theirPieces);
  }
  for (const [id, lines] of named) lists.set(id, lines.join('\n'));
  return lists;
}

export interface WorkDueLine {
  id: number;
  enrolmentId: number;
  learnerId: string;
  name: string;
  course: string;
  group: string | null;
  itemNumber: number;
  itemId: string;
  item: string;
  dueAt: number;
  extendedFrom: number | null;
  state: DueState;
  isOverdue: boolean;
  daysLate: number;
  submittedAt: number | null;
  /** "due before they came", for an assignment that is owed and not held against them; null for any other. */
  early: string | null;
}

/** What is said of an assignment that drift does not hold against whoever came late. */
function sayEarly(dueDay: number, cameOn: number): string | null {
  if (!cameTooLateFor(dueDay, cameOn)) return null;
  return dueDay < cameOn ? 'due before they came' : 'due in their first week';
}

export const WORK_DUE = {
  name: 'work-due',
  path: '/courses/work-due',
  query: WorkDueQuery,
  columns: {
    of: ENROLLED_COLUMN,
    item: {
      title: 'Item',
      sort: 'item',
      figures: { item_id: (row) => row.item_id, item: (row) => row.item },
    },
    due: { title: 'Due', sort: 'due', figures: { due_at: (row) => isoOrNull(row.due_at) } },
    state: { title: 'State', figures: { state: (row) => row.state } },
    late: { title: 'Days late', sort: 'late', figures: { days_late: (row) => row.days_late } },
    early: {
      title: 'Due before they came',
      figures: {
        before_they_came: (row, { zone }) =>
          row.came_on !== null && cameTooLateFor(dayOf(row.due_at, zone), row.came_on),
      },
    },
    submitted: { title: 'Handed in', figures: { submitted_at: (row) => isoOrNull(row.submitted_at) } },
  },
  line: ({ enrolled, ...row }: WorkDueRow, { zone }): WorkDueLine => ({
    id: enrolled.id,
    enrolmentId: enrolled.enrolmentId,
    learnerId: enrolled.learner_id,
    name: fullName(enrolled),
    course: enrolled.course,
    group: enrolled.group,
    itemNumber: row.itemId,
    itemId: row.item_id,
    item: row.item,
    dueAt: row.due_at,
    extendedFrom: row.extended_from,
    state: row.state,
    isOverdue: row.isOverdue,
    daysLate: row.days_late,
    submittedAt: row.submitted_at,
    early: row.isOverdue && row.came_on !== null ? sayEarly(dayOf(row.due_at, zone), row.came_on) : null,
  }),
  read: workDue,
} satisfies List<WorkDueRow>;
