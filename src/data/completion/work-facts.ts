/** What drift reads of a learner's work: from the kept standings, and the course's own dates. */
import type { KeptWork } from '@/core/completion/standing';
import { planOf } from '@/core/completion/pace';
import type { Piece, WorkFacts } from '@/core/drift/work';
import { dayOf } from '@/core/time/zone';
import { isWork } from '@/core/work/owed';
import type { RawConnection } from '../db';
import { passMarkOf, readCourse } from './course';
import type { Standings } from './standing';

const NOTHING = { plan: '[]', done_days: '[]', work: '[]' };

/** A course's pieces of work as everybody has them, and where plans are from one's own beginning, by one's first day. */
function openPieces(raw: RawConnection, courseId: number, zone: string) {
  const course = readCourse(raw, courseId);
  const day = (at: number | null) => (at === null ? null : dayOf(at, zone));
  const items = course.items.map(({ required, dueAt }) => ({ required, dueDay: day(dueAt) }));
  const isDated = items.some(({ required, dueDay }) => required && dueDay !== null);
  const known = new Map<number, readonly Piece[]>();
  return {
    passMark: passMarkOf(course),
    of(enrolledDay: number): readonly Piece[] {
      // In a dated course the plan is everybody's.
      const key = isDated ? 0 : enrolledDay;
      let pieces = known.get(key);
      if (!pieces) {
        const plan = planOf(items, course, enrolledDay);
        pieces = course.items.flatMap((item, index): Piece[] =>
          isWork(item.kind, item.points)
            ? [
                {
                  itemId: item.id,
                  dueAt: item.dueAt,
                  dueDay: day(item.dueAt) ?? plan[index],
                  opensDay: day(item.opensAt) ?? course.start,
                },
              ]
            : [],
        );
        known.set(key, pieces);
      }
      return pieces;
    },
  };
}

/** Opens a reader of the work of a course's enrolments. */
export function openWorkFacts(raw: RawConnection, standings: Standings, zone: string) {
  const kept = raw.prepare<[number], typeof NOTHING>(
    `SELECT plan, done_days, work FROM ${standings} WHERE enrolment_id = ?`,
  );
  const courses = new Map<number, ReturnType<typeof openPieces>>();
  const day = (at: number | null) => (at === null ? null : dayOf(at, zone));
  return ({
    enrolmentId,
    courseId,
    enrolledDay,
  }: {
    enrolmentId: number;
    courseId: number;
    enrolledDay: number;
  }): WorkFacts => {
    let course = courses.get(courseId);
    if (!course) courses.set(courseId, (course = openPieces(raw, courseId, zone)));
    const { plan, done_days, work } = kept.get(enrolmentId) ?? NOTHING;
    return {
      pieces: course.of(enrolledDay),
      passMark: course.passMark,
      plan: JSON.parse(plan) as number[],
      doneDays: JSON.parse(done_days) as number[],
      own: new Map(
        (JSON.parse(work) as KeptWork).map(([itemId, dueAt, extendedAt, excusedAt, attempts]) => [
          itemId,
          {
            dueAt,
            dueDay: day(dueAt),
            extendedDay: day(extendedAt),
            excusedDay: day(excusedAt),
            attempts: attempts.map(([submittedAt, gradedAt, share, points]) => ({
              submittedAt,
              submittedDay: day(submittedAt),
              gradedDay: day(gradedAt),
              share,
              points,
            })),
          },
        ]),
      ),
    };
  };
}
