import { dayOf } from '@/core/time/zone';
import { coursesInLog } from '@/server/access/reads';
import type { View } from '@/data/view';
import { incompleteDays, sayGapDays } from '@/server/feed/feed';
import type { Period } from '@/server/request/period';
import type { Runtime } from '@/server/runtime';
import classes from './frame.module.css';

interface Props {
  runtime: Runtime;
  view: View;
  period: Period;
}

/** Says on which days of a period the log is incomplete: what is not in it may have happened all the same. */
export async function LogIncomplete({ runtime, view, period }: Props) {
  const courses = await coursesInLog(runtime, view);
  const days = await incompleteDays(runtime, courses, { to: view.now, ...period });
  if (days.length === 0) return null;
  return (
    <p className={classes.incomplete}>
      Log incomplete {sayGapDays(days, dayOf(view.now, runtime.zone))}: what is missing there may have happened all the
      same.
    </p>
  );
}
