import Link from 'next/link';
import type { EnrolmentShown } from '@/core/contact/person';
import { sayDay } from '@/core/time/words';
import { bandColor } from './gauge';
import classes from './reasons.module.css';

/** Where the rows behind a reason stand, by its factor: work, items, the log, or the sessions of the learner's page. */
const ROWS: Readonly<Record<string, (learner: string, course: string) => string>> = {
  missing: workDueOf,
  no_hand_in: workDueOf,
  late: workDueOf,
  behind: courseOf,
  marks: courseOf,
  falling: courseOf,
  quiet: logOf,
  working: logOf,
  talking: logOf,
  sessions: (learner) => `/learners/${encodeURIComponent(learner)}#sessions`,
};

function workDueOf(learner: string, course: string): string {
  return `/courses/work-due?${new URLSearchParams({ learner, course, state: 'any' })}`;
}

function courseOf(learner: string, course: string): string {
  return `/learners/${encodeURIComponent(learner)}/courses/${encodeURIComponent(course)}?form=full`;
}

function logOf(learner: string, course: string): string {
  return `/access-log?${new URLSearchParams({ learner, course })}`;
}

/** The reasons of one enrolment's drift, with their points, which add up to the score; each leads to its rows. */
export function Reasons({ enrolment, learnerId }: { enrolment: EnrolmentShown; learnerId: string }) {
  const { reasons, notCounted, without, band, score, course, readOtherwise, judged, stoodOn } = enrolment;
  return (
    <div className={classes.reasons}>
      {reasons.map((reason) => (
        <div key={reason.title} className={classes.reason}>
          <div>
            <strong>
              {ROWS[reason.factor] ? (
                <Link href={ROWS[reason.factor](learnerId, course)}>{reason.title}</Link>
              ) : (
                reason.title
              )}
            </strong>
            <div className={classes.says}>{reason.whole}</div>
          </div>
          <div className={classes.bar} aria-hidden="true">
            <div style={{ width: `${reason.points}%`, background: bandColor(band) }} />
          </div>
          <span className={classes.points}>{reason.points}</span>
        </div>
      ))}
      {score === null && <p className={classes.says}>{without ?? 'Nothing was read on this day'}.</p>}
      {score !== null && notCounted.length > 0 && (
        <p className={classes.notCounted}>
          Judged by {judged.by} of {judged.of} reasons. Not counted: {notCounted.join(', ')}
        </p>
      )}
      {stoodOn !== null && (
        <p className={classes.notCounted}>As of {sayDay(stoodOn)}: nothing has come from the log since.</p>
      )}
      {readOtherwise && (
        <p className={classes.notCounted}>Read by the weights of that day, which have changed since.</p>
      )}
    </div>
  );
}
