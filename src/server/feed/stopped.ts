/** Logs that have stopped: found by themselves, so that nobody is held to days that nothing tells of. */
import { isMissed, silences } from '@/core/feed/stopped';
import { DAY, HOUR, dayOf, startOfDay } from '@/core/time/zone';
import { withRaw, rawTransaction, type RawConnection } from '@/data/db';
import { OF_SOURCE, noteStale } from '@/data/drift/stale';
import {
  activeDays,
  eventsOfSource,
  feedsAnyOn,
  keepSilences,
  keptSilences,
  silentSources,
  type KeptSilence,
} from '@/data/feed/stopped-log';
import type { Runtime } from '../runtime';

type Parts = Pick<Runtime, 'db' | 'clock' | 'zone'>;

/** Hours before a silence that tell how a source usually pauses, and days that tell how much it sends. */
const RHYTHM = 7 * 7 * 24;
const SHARE_DAYS = 28;

/**
 * Looks at every source that is silent: whoever is fed by one that has stopped is not judged by the days since, at once and
 * without anybody's leave. When more comes, those days are read anew; what never came stays a gap. Costs a look at a few rows
 * where nothing is silent.
 */
export async function lookForStops({ db, clock, zone }: Parts): Promise<void> {
  const now = clock.now();
  const today = dayOf(now, zone);
  const changes = await withRaw(db, (raw) =>
    silentSources(raw, startOfDay(today - 1, zone)).flatMap(({ id, lastAt }) => {
      const { noted, quiet } = keptSilences(raw, id);
      const found = silencesOf(raw, { id, lastAt, today, zone, noted, quiet });
      const differs = [...found, ...noted].filter((one) => !isIn(one, found) || !isIn(one, noted));
      return differs.length === 0
        ? []
        : [{ id, found, noted, fromAt: Math.min(...differs.map(({ fromAt }) => fromAt)) }];
    }),
  );
  if (changes.length === 0) return;
  await rawTransaction(db, (raw) => {
    for (const { id, found, noted, fromAt } of changes) {
      keepSilences(raw, id, found, now);
      // That a silence goes on for another day changes no reading.
      const onlyGoesOn =
        found.length === noted.length &&
        found.every((one, i) => one.fromAt === noted[i].fromAt && one.state === noted[i].state);
      if (!onlyGoesOn) noteStale(raw, OF_SOURCE, { sourceId: id, fromDay: dayOf(fromAt, zone) });
    }
  });
}

const isIn = (one: KeptSilence, all: readonly KeptSilence[]) =>
  all.some(({ fromAt, toAt, state }) => fromAt === one.fromAt && toAt === one.toAt && state === one.state);

interface Asked {
  id: number;
  lastAt: number;
  today: number;
  zone: string;
  noted: readonly KeptSilence[];
  quiet: readonly KeptSilence[];
}

/** Silences of a source that count for nothing: the one that goes on, and those that were noted while they did. */
function silencesOf(raw: RawConnection, { id, lastAt, today, zone, noted, quiet }: Asked): KeptSilence[] {
  const earliest = Math.min(lastAt, ...noted.map(({ fromAt }) => fromAt));
  const days = activeDays(raw, id, Math.floor(earliest / HOUR) - RHYTHM, zone);
  const overlaps = (one: KeptSilence, all: readonly KeptSilence[]) =>
    all.some(({ fromAt, toAt }) => fromAt < one.toAt && toAt > one.fromAt);
  return silences(days, today).flatMap(({ days: [from, to], isOver }) => {
    const one: KeptSilence = {
      fromAt: startOfDay(from, zone),
      toAt: startOfDay(to + 1, zone),
      state: isOver ? 'confirmed' : 'stopped',
    };
    if (overlaps(one, quiet)) return [];
    if (!feedsAnyOn(raw, id, from)) return [];
    return overlaps(one, noted) || (!isOver && isMissedSince(raw, id, lastAt, startOfDay(today, zone))) ? [one] : [];
  });
}

function isMissedSince(raw: RawConnection, id: number, lastAt: number, until: number): boolean {
  const lastHour = Math.floor(lastAt / HOUR);
  const before = eventsOfSource(raw, id, lastHour - SHARE_DAYS * 24, lastHour + 1);
  const since = eventsOfSource(raw, id, lastHour + 1, Math.floor(until / HOUR));
  return isMissed({
    own: before.own / SHARE_DAYS,
    othersBefore: before.others / SHARE_DAYS,
    othersSince: since.others / Math.max(1, (until - lastAt) / DAY),
  });
}
