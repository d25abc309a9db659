import { dayOf } from '@/core/time/zone';
import { sayInstant, sayTime } from '@/core/time/words';
import classes from './deck.module.css';
import { LensMenu } from './lens-menu';
import type { DeckContext } from './page-context';

/** Whose, as of when, and how fresh the logs are. */
export function TopBar({ deck }: { deck: DeckContext }) {
  const { runtime, viewer, choices, lensKey, logsTo } = deck;
  const { clock, zone } = runtime;
  const now = clock.now();
  const logs =
    logsTo === null
      ? 'No logs yet'
      : `Logs to ${dayOf(logsTo, zone) === dayOf(now, zone) ? sayTime(logsTo, zone) : sayInstant(logsTo, zone, now)}`;
  return (
    <div className={classes.bar}>
      <LensMenu
        own={viewer.all ? 'everyone' : `${viewer.name.split(' ')[0]}’s learners`}
        current={lensKey}
        choices={choices.map(({ key, label, learners }) => ({ key, label, learners }))}
      />
      <span>
        As of <strong>{sayInstant(now, zone)}</strong>
      </span>
      <span className={classes.barNote}>{logs}</span>
    </div>
  );
}
