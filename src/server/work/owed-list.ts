/** Work owed: each learner's pieces with a due date, and where they stand. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { firstHandIn } from '@/core/work/attempt';
import { itemGrades } from '@/core/grades/course-grades';
import { OWED_STATES, OWED_WORDS, daysLate, type OwedState } from '@/core/work/owed';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { enrolledInView, workByCourse, type Enrolled } from '@/data/completion/enrolled';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { Moment } from '@/data/view';
import { WorkQuery } from '../completion/headway-list';
import { isoOrNull } from '../request/figures';
import { AsInstant, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { requireOrder } from '../request/period';
import { openMoment } from '../request/view';
import type { Runtime } from '../runtime';

/** Beside the states themselves: all that is owed now. */
const OWED = 'owed';
const SORTS = ['due', 'late', 'name', 'item'] as const;
type Sort = (typeof SORTS)[number];

class OwedQuery extends WorkQuery {
  @Filter({
    tells: 'an item, by its id',
    says: (item, _params, names) => `Item ${names.item ?? item}`,
    control: { as: 'choice', label: 'Item', choices: 'items' },
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  item?: string;

  @Filter({ tells: 'a learner, by their id', says: (learner, _params, names) => names.learner ?? learner })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;

  @Filter({
    tells: `where it stands: ${OWED_STATES.join(', ')}; or \`owed\`, all that is past its date and not handed in`,
    says: (state) => (state === OWED ? 'Owed now' : `Work ${OWED_WORDS[state as OwedState] ?? state}`),
    control: {
      as: 'choice',
      label: 'State',
      choices: [
        { value: OWED, label: 'owed now' },
        ...OWED_STATES.map((value) => ({ value, label: OWED_WORDS[value] })),
      ],
    },
  })
  @IsOptional()
  @IsIn([OWED, ...OWED_STATES], { message: `is not one of ${[OWED, ...OWED_STATES].join(', ')}` })
  state?: OwedState | typeof OWED;

  @Filter({
    tells: 'due from a time on, or from a date’s beginning',
    says: (from) => `Due from ${from.slice(0, 10)}`,
  })
  @IsOptional()
  @AsInstant()
  from?: number;
  @Filter({ tells: 'due before a time, or before a date', says: (to) => `Due before ${to.slice(0, 10)}` })
  @IsOptional()
  @AsInstant()
  to?: number;

  @IsOptional()
  @IsIn(SORTS.flatMap((sort) => [sort, `-${sort}`]), {
    message: `is not one of ${SORTS.join(', ')}, with - before it for descending`,
  })
  sort?: string;
}

/** One piece of one learner's. */
export interface OwedRow {
  enrolled: Enrolled;
  itemId: number;
  item_id: string;
  item: string;
  url: string | null;
  due_at: number;
  /** The item's own date, where an extension gave another. */
  extended_from: number | null;
  state: OwedState;
  isOwed: boolean;
  days_late: number;
  submitted_at: number | null;
}

interface Asked {
  item?: string;
  state?: OwedState | typeof OWED;
  from?: number;
  to?: number;
}

/** Pieces of work of some enrolments in view. */
async function owedRows(
  { db }: Pick<Runtime, 'db'>,
  view: Moment,
  enrolled: readonly Enrolled[],
  { item, state, from, to }: Asked,
): Promise<OwedRow[]> {
  const rows: OwedRow[] = [];
  for await (const { work, enrolled: own } of workByCourse(db, view, enrolled)) {
    for (const one of own) {
      // Withdrawn, and not here yet: nothing is owed.
      if (one.status === 'withdrawn') continue;
      for (const grade of itemGrades(work.course, work.of(one.id), view.now)) {
        const { owed, dueAt, attempts } = grade;
        if (owed === null || dueAt === null) continue;
        if (item !== undefined && grade.item.externalId !== item) continue;
        if (state !== undefined && (state === OWED ? !grade.isOwed : owed !== state)) continue;
        if ((from !== undefined && dueAt < from) || (to !== undefined && dueAt >= to)) continue;
        const submitted = firstHandIn(attempts);
        rows.push({
          enrolled: one,
          itemId: grade.item.id,
          item_id: grade.item.externalId,
          item: grade.item.title,
          url: grade.item.url,
          due_at: dueAt,
          extended_from: grade.item.dueAt !== null && grade.item.dueAt !== dueAt ? grade.item.dueAt : null,
          state: owed,
          isOwed: grade.isOwed,
          days_late: daysLate(dueAt, submitted, view.now),
          submitted_at: submitted,
        });
      }
    }
  }
  return rows;
}

const ORDER: Record<Sort, (a: OwedRow, b: OwedRow) => number> = {
  // Newest first.
  due: (a, b) => b.due_at - a.due_at,
  late: (a, b) => a.days_late - b.days_late,
  name: () => 0,
  item: (a, b) => a.item.localeCompare(b.item),
};

/** @throws InvalidInput, NotFound */
export async function owed(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(OwedQuery, values, runtime.zone);
  const { course, group, organisation, sort = 'due', from, to } = query;
  if (from !== undefined && to !== undefined) requireOrder(from, to);
  const view = await openMoment(runtime, viewer, { course, group, organisation }, query.as_of);
  const learner = query.learner === undefined ? undefined : await findLearner(runtime.db, viewer, query.learner);
  if (learner === null) throw new NotFound('No such learner');
  const today = dayOf(view.now, runtime.zone);
  const people = (
    await enrolledInView(runtime.db, view, query.status ?? 'active', learner === undefined ? undefined : [learner])
  ).filter(({ enrolled_day }) => enrolled_day <= today);
  const rows = await owedRows(runtime, view, people, query);
  const by = ORDER[sort.replace('-', '') as Sort];
  const places = new Map(people.map(({ enrolmentId }, index) => [enrolmentId, index]));
  const place = ({ enrolled }: OwedRow) => places.get(enrolled.enrolmentId)!;
  const down = sort.startsWith('-') ? -1 : 1;
  rows.sort((a, b) => by(a, b) * down || (place(a) - place(b)) * (sort === '-name' ? -1 : 1) || b.due_at - a.due_at);
  const page = pageInOrder(rows, query, (row) => `${row.enrolled.enrolmentId}/${row.itemId}`);
  return { query, view, ...page, total: rows.length, now: view.now, zone: runtime.zone };
}

/** Each learner's overdue list in words, for a message: "Quiz 3 (due Mon 9 Nov) and Sheet 2 (due Thu 12 Nov)". */
export async function overdueLists(
  runtime: Pick<Runtime, 'db' | 'zone'>,
  view: Moment,
  learnerIds: readonly number[],
): Promise<Map<number, string>> {
  const enrolled = await enrolledInView(runtime.db, view, 'active', learnerIds);
  const rows = (await owedRows(runtime, view, enrolled, { state: OWED })).sort((a, b) => a.due_at - b.due_at);
  const today = dayOf(view.now, runtime.zone);
  const lists = new Map<number, string>();
  const named = new Map<number, string[]>();
  for (const { enrolled: one, item, due_at } of rows) {
    const own = named.get(one.id) ?? [];
    own.push(`– ${item} (${one.course}), due ${sayDay(dayOf(due_at, runtime.zone), today)}`);
    named.set(one.id, own);
  }
  for (const [id, lines] of named) lists.set(id, lines.join('\n'));
  return lists;
}

export interface OwedLine {
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
  state: OwedState;
  isOwed: boolean;
  daysLate: number;
  submittedAt: number | null;
}

export const OWED_LIST = {
  name: 'owed',
  path: '/courses/owed',
  query: OwedQuery,
  columns: {
    of: {
      title: 'Learner',
      sort: 'name',
      isKey: true,
      figures: {
        learner_id: ({ enrolled }) => enrolled.learner_id,
        name: ({ enrolled }) => fullName(enrolled),
        course: ({ enrolled }) => enrolled.course,
        group: ({ enrolled }) => enrolled.group,
      },
    },
    item: {
      title: 'Item',
      sort: 'item',
      figures: { item_id: (row) => row.item_id, item: (row) => row.item },
    },
    due: { title: 'Due', sort: 'due', figures: { due_at: (row) => isoOrNull(row.due_at) } },
    state: { title: 'State', figures: { state: (row) => row.state } },
    late: { title: 'Days late', sort: 'late', figures: { days_late: (row) => row.days_late } },
    submitted: { title: 'Handed in', figures: { submitted_at: (row) => isoOrNull(row.submitted_at) } },
  },
  line: ({ enrolled, ...row }: OwedRow): OwedLine => ({
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
    isOwed: row.isOwed,
    daysLate: row.days_late,
    submittedAt: row.submitted_at,
  }),
  read: owed,
} satisfies List<OwedRow>;
