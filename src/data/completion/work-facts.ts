/** What drift reads of a learner's work: from the kept standings, and the course's own dates. */
import { isDriftWork, type StoredWork } from '@/core/completion/enrolment-progress';
import { planOf } from '@/core/completion/pace';
import type { ItemKind, Stage } from '@/core/courses/item-kinds';
import { spreadLate } from '@/core/drift/behind';
import { layOutWork } from '@/core/drift/work';
import type { LearnerItem, DueItem, DueItemResult, PlanTrack, WorkFacts } from '@/core/drift/work-facts';
import { DEFAULT_PASS_MARK } from '@/core/grades/bands';
import { dayOf } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';

interface ItemRow {
  id: number;
  kind: ItemKind;
  points: number | null;
  stage: Stage | null;
  required: number;
  due_at: number | null;
  opens_at: number | null;
}

interface DueItems {
  dueItems: readonly DueItem[];
  /** The place of each assignment, by its item. */
  places: ReadonlyMap<number, number>;
}

/** A course's assignments as everybody has them; where plans are from one's own beginning, by one's first day. */
function openDueItems(raw: RawConnection, courseId: number, zone: string) {
  const course = prepared(raw, 'SELECT starts_day AS start, ends_day AS "end", pass_mark FROM course WHERE id = ?').get(
    courseId,
  ) as { start: number | null; end: number | null; pass_mark: number | null };
  const items = prepared(
    raw,
    `SELECT id, kind, points, stage, required, due_at, opens_at FROM item
     WHERE course_id = ? AND removed_at IS NULL ORDER BY position, id`,
  ).all(courseId) as ItemRow[];
  const day = (at: number | null) => (at === null ? null : dayOf(at, zone));
  const planned = items.map(({ required, due_at }) => ({ required: required === 1, dueDay: day(due_at) }));
  const isDated = planned.some(({ required, dueDay }) => required && dueDay !== null);
  const known = new Map<number, DueItems>();
  return {
    dates: { start: course.start, end: course.end },
    passMark: course.pass_mark ?? DEFAULT_PASS_MARK,
    of(enrolledDay: number): DueItems {
      // In a dated course the plan is everybody's.
      const key = isDated ? 0 : enrolledDay;
      let found = known.get(key);
      if (!found) {
        const plan = planOf(planned, course, enrolledDay);
        const dueItems = items.flatMap((item, index): DueItem[] =>
          isDriftWork(item)
            ? [
                {
                  itemId: item.id,
                  dueAt: item.due_at,
                  dueDay: planned[index].dueDay ?? plan[index],
                  opensDay: day(item.opens_at) ?? course.start,
                },
              ]
            : [],
        );
        found = { dueItems, places: new Map(dueItems.map(({ itemId }, place) => [itemId, place])) };
        known.set(key, found);
      }
      return found;
    },
  };
}

type KeptTrack = [needs: PlanTrack['needs'], plan: number[], done: number[]];

/** Kept tracks as one's own: what was planned before one's first day is spread over the rest of the course. */
function ownTracks(
  kept: readonly KeptTrack[],
  { start, end }: { start: number | null; end: number | null },
  enrolledDay: number,
): PlanTrack[] {
  const came = start === null ? enrolledDay : Math.max(start, enrolledDay);
  const plans = kept.map(([, plan]) => plan);
  const spread = start === null || end === null || came === start ? plans : spreadLate(plans, came, end);
  return kept.map(([needs, , done], index) => ({ needs, plan: spread[index], done }));
}

/** A kept assignment with its days, and of its results those that were better than any before. */
function learnerItem([itemId, dueAt, extendedAt, excusedAt, attempts]: StoredWork[number], zone: string): LearnerItem {
  let handedInAt: number | null = null;
  let results: DueItemResult[] = [];
  for (const [submittedAt, gradedAt, share, points] of attempts) {
    if (submittedAt !== null && (handedInAt === null || submittedAt < handedInAt)) handedInAt = submittedAt;
    if (share !== null && gradedAt !== null) results.push({ day: dayOf(gradedAt, zone), share, points });
  }
  if (results.length > 1) {
    results.sort((a, b) => a.day - b.day || a.share - b.share);
    let best = -1;
    results = results.filter(({ share }) => {
      const isBetter = share > best;
      if (isBetter) best = share;
      return isBetter;
    });
  }
  return {
    itemId,
    dueAt,
    dueDay: dueAt === null ? null : dayOf(dueAt, zone),
    extendedDay: extendedAt === null ? null : dayOf(extendedAt, zone),
    excusedDay: excusedAt === null ? null : dayOf(excusedAt, zone),
    handedInAt,
    handedInDay: handedInAt === null ? null : dayOf(handedInAt, zone),
    results,
  };
}

const NOTHING_SAID: WorkFacts['saidByPlatform'] = [];

/** What a platform says of how far somebody is in a course, day by day: the last of a day. */
function openSaid(raw: RawConnection, courseId: number, zone: string) {
  const says = prepared(raw, `SELECT 1 FROM platform_snapshot WHERE course_id = ? AND progress IS NOT NULL LIMIT 1`);
  if (says.get(courseId) === undefined) return () => NOTHING_SAID;
  const said = prepared(
    raw,
    `SELECT made_at, progress FROM platform_snapshot
     WHERE learner_id = ? AND course_id = ? AND progress IS NOT NULL ORDER BY made_at`,
  ).raw();
  return (learnerId: number): WorkFacts['saidByPlatform'] =>
    (said.all(learnerId, courseId) as [number, number][]).map(([at, percent]) => [dayOf(at, zone), percent]);
}

function openCourse(raw: RawConnection, courseId: number, zone: string) {
  return { ...openDueItems(raw, courseId, zone), saidOf: openSaid(raw, courseId, zone) };
}

/** Opens a reader of the work of a course's enrolments. */
export function openWorkFacts(raw: RawConnection, zone: string) {
  const kept = prepared(
    raw,
    'SELECT tracks, done_days, work, required FROM enrolment_progress WHERE enrolment_id = ?',
  ).raw();
  const courses = new Map<number, ReturnType<typeof openCourse>>();
  return (enrolment: { enrolmentId: number; learnerId: number; courseId: number; enrolledDay: number }): WorkFacts => {
    const { enrolmentId, courseId, enrolledDay } = enrolment;
    let course = courses.get(courseId);
    if (!course) courses.set(courseId, (course = openCourse(raw, courseId, zone)));
    const { dueItems, places } = course.of(enrolledDay);
    const [tracks, done, work, required] = (kept.get(enrolmentId) as [string, string, string, number] | undefined) ?? [
      '[]',
      '[]',
      '[]',
      0,
    ];
    const theirItems = (JSON.parse(work) as StoredWork).map((dueItem) => learnerItem(dueItem, zone));
    return layOutWork(dueItems, theirItems, places, {
      tracks: ownTracks(JSON.parse(tracks) as KeptTrack[], course.dates, enrolledDay),
      doneDays: JSON.parse(done) as number[],
      required,
      passMark: course.passMark,
      saidByPlatform: course.saidOf(enrolment.learnerId),
    });
  };
}
