import type { EnrolmentShown } from '@/core/contact/person';
import { bandColor } from './gauge';
import classes from './reasons.module.css';

/** The reasons of one enrolment's drift, with their points, which add up to the score. */
export function Reasons({ enrolment }: { enrolment: EnrolmentShown }) {
  const { reasons, notCounted, band, score } = enrolment;
  return (
    <div className={classes.reasons}>
      {reasons.map((reason) => (
        <div key={reason.title} className={classes.reason}>
          <div>
            <strong>{reason.title}</strong>
            <div className={classes.says}>{reason.whole}</div>
          </div>
          <div className={classes.bar} aria-hidden="true">
            <div style={{ width: `${reason.points}%`, background: bandColor(band) }} />
          </div>
          <span className={classes.points}>{reason.points}</span>
        </div>
      ))}
      {score === null && (
        <p className={classes.says}>No reading: there is nothing to judge by yet, or the log is incomplete.</p>
      )}
      {notCounted.length > 0 && <p className={classes.notCounted}>Not counted: {notCounted.join(', ')}</p>}
    </div>
  );
}
