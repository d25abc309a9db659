/** What a change of somebody's work makes stale: their progress, and their drift from its first day on. */
import { dayOf } from '@/core/time/zone';
import { PROGRESS_OF_COURSE, staleProgress } from '../completion/enrolment-progress';
import type { RawConnection } from '../db';
import { FROM_THE_BEGINNING, OF_COURSE, noteStale } from '../drift/stale';

/** Gathers whose work changed, to be noted before the transaction ends. */
export class StaleWork {
  private readonly since = new Map<number, Map<number, number>>();

  constructor(
    private readonly raw: RawConnection,
    private readonly zone: string,
  ) {}

  /** Notes a learner's work in a course, from the first of some instants on; from the beginning where there is none. */
  add(learnerId: number, courseId: number, ...instants: (number | null)[]): void {
    const known = instants.filter((at) => at !== null);
    const day = known.length === 0 ? FROM_THE_BEGINNING : dayOf(Math.min(...known), this.zone);
    let course = this.since.get(courseId);
    if (!course) this.since.set(courseId, (course = new Map()));
    course.set(learnerId, Math.min(course.get(learnerId) ?? day, day));
  }

  flush(): void {
    for (const [courseId, learners] of this.since) {
      const which = JSON.stringify([...learners]);
      // Held to this order: by its course, every enrolment of it would be looked at for each learner.
      const enrolmentsSql = `FROM json_each(@which) AS w CROSS JOIN enrolment e
        ON e.learner_id = json_extract(w.value, '$[0]') AND e.course_id = @courseId`;
      staleProgress(this.raw, `SELECT e.id ${enrolmentsSql}`, { courseId, which });
      noteStale(this.raw, `SELECT e.id, json_extract(w.value, '$[1]') ${enrolmentsSql}`, { courseId, which });
    }
    this.since.clear();
  }
}

/** Everybody's in some courses: what makes something done, or due, has changed. */
export function staleCourseWork(raw: RawConnection, courseIds: Iterable<number>): void {
  for (const courseId of courseIds) {
    staleProgress(raw, PROGRESS_OF_COURSE, { courseId });
    noteStale(raw, OF_COURSE, { courseId, fromDay: FROM_THE_BEGINNING });
  }
}
