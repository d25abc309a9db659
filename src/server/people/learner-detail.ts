/** One learner, as the API gives them. */
import { bandWord } from '@/core/drift/bands';
import { sayWhole } from '@/core/drift/sentences';
import { daysQuiet } from '@/core/access/last-access';
import { dateOfDay } from '@/core/time/zone';
import { enrolmentsOf } from '@/data/people/enrolments';
import { countUpTo, storedProgress, type StoredProgress } from '@/data/completion/stored-progress';
import { findLearner, learnersById } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { isoOrNull, minutes, score } from '../request/values';
import { NotFound } from '../request/input';
import { figuresOf } from '../request/list';
import { attendanceByCourse } from '../sessions/records';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { LEARNERS } from './learner-list';

export type LearnerDetail = Record<string, unknown> & { enrolments: Record<string, unknown>[] };

/** Progress of a kept progress, 0–1; null where nothing is required, or it is still to be derived. */
function shareOf(kept: StoredProgress | undefined): number | null {
  return kept && kept.required > 0 ? Math.round((1e5 * kept.done) / kept.required) / 1e5 : null;
}

/** One learner with every enrolment in the viewer's scope. @throws NotFound */
export async function learnerDetail(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<LearnerDetail> {
  const { db, clock, zone } = runtime;
  const view = await openDriftView(runtime, viewer);
  const id = await findLearner(db, viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  const [[row], enrolments, attendance, stored] = await Promise.all([
    learnersById(db, view, [id]),
    enrolmentsOf(db, view, [id]),
    attendanceByCourse(runtime, view, id),
    storedProgress(db, view, 'all', [id]),
  ]);
  return {
    ...figuresOf(LEARNERS, row, { now: view.now, zone }),
    enrolments: enrolments.map((e) => ({
      course: e.course,
      group: e.group,
      enrolled_on: dateOfDay(e.enrolled_day),
      status: e.status,
      last_access: isoOrNull(e.last_at),
      days_quiet: daysQuiet(e.last_at, clock.now(), zone),
      minutes_online: minutes(e.ms),
      progress: shareOf(stored.get(e.id)),
      overdue: e.status === 'active' ? countUpTo(stored.get(e.id)?.openDues ?? [], view.now - 1) : null,
      attendance_rate: attendance.get(e.course_id)?.rate ?? null,
      grade: score(stored.get(e.id)?.onGraded ?? null),
      drift: score(e.score),
      band: bandWord(e.band),
      reasons: e.explanation.reasons.map((reason) => ({ ...reason, says: sayWhole(reason.says) })),
      ...(e.platform && {
        platform: {
          progress: e.platform.progress === null ? null : e.platform.progress / 100,
          minutes: e.platform.minutes,
          as_of: isoOrNull(e.platform.at),
        },
      }),
    })),
  };
}
