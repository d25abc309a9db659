import { dayOf } from '@/core/time/zone';
import { coursesInLog } from '@/server/access/reads';
import type { Moment } from '@/data/view';
import { incompleteDays, sayGapDays } from '@/server/feed/feed';
import type { Period } from '@/server/request/period';
import type { Runtime } from '@/server/runtime';
import classes from './frame.module.css';

interface Props {
  runtime: Runtime;
  moment: Moment;
  period: Period;
}

/** Says on which days of a period the log is incomplete: what is not in it may have happened all the same. */
export async function LogIncomplete({ runtime, moment, period }: Props) {
  const courses = await coursesInLog(runtime, moment);
  const days = await incompleteDays(runtime, courses, { to: moment.now, ...period });
  if (days.length === 0) return null;
  return (
    <p className={classes.incomplete}>
      Log incomplete {sayGapDays(days, dayOf(moment.now, runtime.zone))}: what is missing there may have happened all
      the same.
    </p>
  );
}
