import Link from 'next/link';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { sayCount, sayInstant, sayTime } from '@/core/time/words';
import { firstReadingDay } from '@/server/request/view';
import { AsOfMenu } from './as-of-menu';
import classes from './frame.module.css';
import { Find } from './find';
import { SegmentMenu } from './segment-menu';
import type { FrameContext } from './page-context';
import { Refresher } from './refresher';

/** How often a screen looks again while what it shows is being read, in ms. */
const BEING_READ = 3000;

interface Props {
  frame: FrameContext;
  /** This screen shows now, whichever day is looked at elsewhere. */
  present?: boolean;
}

/** Whose, as of when, how fresh the logs are, and search. */
export async function TopBar({ frame, present = false }: Props) {
  const { runtime, viewer, view, segmentKey, segmentLabel, logsTo, notComing, asOf, fault } = frame;
  const { clock, zone } = runtime;
  const now = clock.now();
  const first = await firstReadingDay(runtime);
  const logs =
    logsTo === null
      ? 'No logs yet'
      : `Logs to ${dayOf(logsTo, zone) === dayOf(now, zone) ? sayTime(logsTo, zone) : sayInstant(logsTo, zone, now)}`;
  const caseload = viewer.all
    ? 'everyone'
    : viewer.standInKey === null
      ? `${viewer.name.split(' ')[0]}’s learners`
      : 'own learners';
  return (
    <>
      <div className={classes.bar}>
        <SegmentMenu own={caseload} current={segmentKey} label={segmentLabel} />
        <AsOfMenu
          says={sayInstant(view.now, zone, now)}
          asOf={asOf}
          today={dateOfDay(dayOf(now, zone))}
          first={first === null ? null : dateOfDay(first)}
        />
        <span className={classes.barNote}>
          {logs}
          {notComing > 0 && (
            <>
              {' · '}
              <Link href="/set-up/data#by-itself">{sayCount(notComing, 'file')} did not come in</Link>
            </>
          )}
        </span>
        <Find asOf={asOf} part={segmentKey} />
      </div>
      {fault && (
        <p role="alert" className={classes.barFault}>
          {fault}
        </p>
      )}
      {asOf !== null && (
        <p className={classes.notice}>
          {present
            ? 'You look at a past day elsewhere; this screen shows now.'
            : 'You look at a past day, as it was at its end. What you do is done now.'}
          {!present &&
            first !== null &&
            view.readingDay < first &&
            ' No drift was read as early as this, so there is no reading.'}
        </p>
      )}
      {!present && frame.beingRead && (
        <p className={classes.notice} role="status">
          <Refresher every={BEING_READ} />
          {asOf === null ? 'Drift' : 'Drift of this day'} is being read anew after a change, so some of it may still
          change.
        </p>
      )}
    </>
  );
}
