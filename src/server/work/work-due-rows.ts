/** Assignments of those in view: which there are in what order, and where each stands. */
import { itemGrades } from '@/core/grades/course-grades';
import { groupBy } from '@/core/group-by';
import { firstHandIn } from '@/core/work/attempt';
import { daysLate, dueOf, isWork, type DueState } from '@/core/work/due';
import { readCourseWork, workByCourse, type Enrolled } from '@/data/completion/enrolled';
import { storedProgress, staleEnrolments } from '@/data/completion/stored-progress';
import { withRaw, type Db } from '@/data/db';
import type { View } from '@/data/view';

/** Beside the states themselves: all that is owed now. */
export const ANY_OVERDUE = 'any_overdue';
export const WORK_DUE_SORTS = ['due', 'late', 'name', 'item'] as const;

/** One assignment of one learner's. */
export interface WorkDueRow {
  enrolled: Enrolled;
  itemId: number;
  item_id: string;
  item: string;
  url: string | null;
  due_at: number;
  /** The item's own date, where an extension gave another. */
  extended_from: number | null;
  state: DueState;
  isOverdue: boolean;
  days_late: number;
  submitted_at: number | null;
  /** The first day of their time in the course, where they came after its beginning; null for anybody else. */
  came_on: number | null;
}

/** Which assignments. */
interface Which {
  item?: string;
  state?: DueState | typeof ANY_OVERDUE;
  from?: number;
  to?: number;
}

interface Asked extends Which {
  sort: string;
  status: 'active' | 'all';
}

/** Assignments of some enrolments in view. */
export async function workDueRows(
  db: Db,
  view: View,
  enrolled: readonly Enrolled[],
  { item, state, from, to }: Which,
): Promise<WorkDueRow[]> {
  const rows: WorkDueRow[] = [];
  for await (const { work, enrolled: own } of workByCourse(db, view, enrolled)) {
    for (const one of own) {
      // Withdrawn, and not here yet: nothing is owed.
      if (one.status === 'withdrawn') continue;
      for (const grade of itemGrades(work.course, work.of(one.id), view.now)) {
        const { dueState, dueAt, attempts } = grade;
        if (dueState === null || dueAt === null) continue;
        if (item !== undefined && grade.item.externalId !== item) continue;
        if (state !== undefined && (state === ANY_OVERDUE ? !grade.isOverdue : dueState !== state)) continue;
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
          state: dueState,
          isOverdue: grade.isOverdue,
          days_late: daysLate(dueAt, submitted, view.now),
          submitted_at: submitted,
          came_on: work.course.start !== null && one.enrolled_day > work.course.start ? one.enrolled_day : null,
        });
      }
    }
  }
  return rows;
}

/** An assignment in its place in the list; its row is worked out where it is shown. */
export interface DueItem {
  enrolled: Enrolled;
  due: number;
  /** Which of those that fall due for them at the same instant, in outline order. */
  nth: number;
  /** Where it had to be worked out to find its place. */
  row?: WorkDueRow;
}

export const dueItemKey = ({ enrolled, due, nth }: DueItem) => `${enrolled.enrolmentId}/${due}/${nth}`;

/** Pieces of one enrolment from their due dates. */
function* dueItemsOf(enrolled: Enrolled, dues: Iterable<number>): Generator<DueItem> {
  const seen = new Map<number, number>();
  for (const due of dues) {
    const nth = seen.get(due) ?? 0;
    seen.set(due, nth + 1);
    yield { enrolled, due, nth };
  }
}

/**
 * The assignments that due dates alone tell of, so that a list of an institution reads no attempt but those of its page: all
 * there are, by the outline and extensions, and what is owed now, by what is kept of each enrolment.
 */
async function* dueItemsByDate(
  db: Db,
  view: View,
  people: readonly Enrolled[],
  { state, status }: Asked,
): AsyncGenerator<DueItem> {
  if (state === ANY_OVERDUE) {
    const [kept, stale] = await Promise.all([storedProgress(db, view, status), staleEnrolments(db)]);
    // Where something has changed since, it is worked out: what one does is seen at once.
    const changed = people.filter(({ enrolmentId }) => stale.has(enrolmentId));
    const rows = groupBy(await workDueRows(db, view, changed, { state }), ({ enrolled }) => enrolled.enrolmentId);
    for (const one of people) {
      if (stale.has(one.enrolmentId)) {
        const theirRows = rows.get(one.enrolmentId) ?? [];
        yield* dueItemsOf(
          one,
          theirRows.map(({ due_at }) => due_at),
        );
        continue;
      }
      const dues = kept.get(one.enrolmentId)?.openDues ?? [];
      yield* dueItemsOf(
        one,
        dues.filter((due) => due < view.now),
      );
    }
    return;
  }
  const courses = new Map<number, ReturnType<typeof readCourseWork>>();
  for (const one of people) {
    let work = courses.get(one.course_id);
    if (!work) {
      work = await withRaw(db, (raw) => readCourseWork(raw, one.course_id, view, []));
      courses.set(one.course_id, work);
    }
    const { extensions } = work.of(one.id);
    const dueItems = work.course.items.filter(({ kind, points }) => isWork(kind, points));
    yield* dueItemsOf(
      one,
      dueItems.flatMap((item) => dueOf(item, extensions) ?? []),
    );
  }
}

/** Pieces of some enrolments in view, given by their names, in the order asked for. */
export async function dueItemsOfPeople(
  db: Db,
  view: View,
  people: readonly Enrolled[],
  asked: Asked,
): Promise<DueItem[]> {
  const { item, state, sort, from = -Infinity, to = Infinity } = asked;
  const by = sort.replace('-', '');
  // What is withdrawn owes nothing.
  const here = people.filter(({ status }) => status !== 'withdrawn');
  const isByDue =
    item === undefined &&
    by !== 'item' &&
    (state === undefined ? by !== 'late' : state === ANY_OVERDUE && view.asOf === null);
  const dueItems: DueItem[] = [];
  if (isByDue) {
    for await (const dueItem of dueItemsByDate(db, view, here, asked))
      if (dueItem.due >= from && dueItem.due < to) dueItems.push(dueItem);
  } else {
    const rows = groupBy(await workDueRows(db, view, here, asked), ({ enrolled }) => enrolled.enrolmentId);
    for (const one of here) {
      const theirRows = rows.get(one.enrolmentId) ?? [];
      let index = 0;
      for (const dueItem of dueItemsOf(
        one,
        theirRows.map(({ due_at }) => due_at),
      )) {
        dueItems.push({ ...dueItem, row: theirRows[index] });
        index += 1;
      }
    }
  }
  return inOrder(dueItems, sort, view.now);
}

/** By name as they come, or the other way; else by what is asked for, and by name where that is the same. */
function inOrder(dueItems: readonly DueItem[], sort: string, now: number): DueItem[] {
  const [by, down] = [sort.replace('-', ''), sort.startsWith('-') ? -1 : 1];
  const people = [...groupBy(dueItems, ({ enrolled }) => enrolled.enrolmentId).values()];
  if (sort === '-name') people.reverse();
  // Of one person the newest first.
  const all = people.flatMap((own) => own.sort((a, b) => b.due - a.due));
  if (by === 'name') return all;
  if (by === 'item') return all.sort((a, b) => a.row!.item.localeCompare(b.row!.item) * down);
  const late = ({ row, due }: DueItem) => row?.days_late ?? daysLate(due, null, now);
  return all.sort(by === 'late' ? (a, b) => (late(a) - late(b)) * down : (a, b) => (b.due - a.due) * down);
}

/** The rows of a page of assignments; one that has been settled since its progress was kept is left out. */
export async function rowsOfDueItems(
  db: Db,
  view: View,
  dueItems: readonly DueItem[],
  state: Asked['state'],
): Promise<WorkDueRow[]> {
  if (dueItems.every(({ row }) => row !== undefined)) return dueItems.map(({ row }) => row!);
  const people = [...new Map(dueItems.map(({ enrolled }) => [enrolled.enrolmentId, enrolled])).values()];
  const rows = groupBy(
    await workDueRows(db, view, people, { state }),
    ({ enrolled, due_at }) => `${enrolled.enrolmentId}/${due_at}`,
  );
  return dueItems.flatMap(({ enrolled, due, nth }) => rows.get(`${enrolled.enrolmentId}/${due}`)?.[nth] ?? []);
}
