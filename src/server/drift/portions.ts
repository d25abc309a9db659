/** Completion and readings worked out from what is stored, a portion at a time: on this thread and, where there is one, beside it. */
import { setTimeout as pause } from 'node:timers/promises';
import { groupReadings, type StoredReading, type UnfinishedDay } from '@/core/drift/readings';
import { dayOf } from '@/core/time/zone';
import { deriveProgress, type DerivedProgress } from '@/data/completion/enrolment-progress';
import { withRaw, type Db, type RawConnection } from '@/data/db';
import { courseDates, groupMembers, readingRow, type ReadingGroup, type ReadingRow } from '@/data/drift/drift';
import { courseModels, readSettings } from '@/data/drift/settings';
import { readNumber } from '@/data/settings';
import type { Clock } from '../clock';

/** What of the runtime it takes. */
export interface Parts {
  db: Db;
  clock: Clock;
  zone: string;
  helper?: Helper;
}

/** The day of the last readings, and the instant up to which that day is read. */
export const READING_DAY = 'reading_day';
export const READING_AT = 'reading_at';

/** The day that is not over, as the readings of it are made. */
function unfinishedDay(raw: RawConnection, zone: string): UnfinishedDay | null {
  const at = readNumber(raw, READING_AT);
  return at === null ? null : { day: dayOf(at, zone), at };
}

/**
 * A group's readings from its `fromDay` to a day, from what is stored.
 * @param modelOn what each day is read by: as it is set, or another for a preview
 */
export function readGroup(
  raw: RawConnection,
  group: ReadingGroup,
  toDay: number,
  zone: string,
  modelOn = courseModels(readSettings(raw), group.courseId),
): StoredReading[] {
  const dates = courseDates(raw, group.courseId, zone);
  const members = groupMembers(raw, group, modelOn(toDay), zone);
  return groupReadings(members, dates, group.fromDay, toDay, modelOn, unfinishedDay(raw, zone));
}

/** What each kind of portion holds, and what comes of it. */
interface Portions {
  /** Enrolments whose progress is stale. */
  completion: { portion: number[]; result: DerivedProgress };
  /** Groups, each from its own first day; the readings of each. */
  readings: { portion: { groups: ReadingGroup[]; today: number }; result: ReadingRow[][] };
}
export type PortionKind = keyof Portions;

/** What a portion is worked out by, beside what is stored. */
export interface PortionTerms {
  zone: string;
  now: number;
}

const WORK: {
  [K in PortionKind]: (
    raw: RawConnection,
    portion: Portions[K]['portion'],
    terms: PortionTerms,
  ) => Portions[K]['result'];
} = {
  completion: deriveProgress,
  readings: (raw, { groups, today }, { zone }) =>
    raw.transaction(() => groups.map((group) => readGroup(raw, group, today, zone).map(readingRow)))(),
};

/** Works out one portion. Nothing is stored. */
export function workOut<K extends PortionKind>(
  raw: RawConnection,
  kind: K,
  portion: Portions[K]['portion'],
  terms: PortionTerms,
): Portions[K]['result'] {
  return WORK[kind](raw, portion, terms);
}

/** Another thread that works out portions; null where it cannot, and they are worked out here. */
export type Helper = <K extends PortionKind>(
  kind: K,
  portion: Portions[K]['portion'],
  terms: PortionTerms,
) => Promise<Portions[K]['result']> | null;

/** Fewer are not worth waking a thread for. */
const WORTH_HELP = 4;
/** Portions given to the helper at a time: it goes on with the next while the last is stored. */
const GIVEN = 2;

/** Works out portions, each as soon as it is ready, giving way to others between them. */
export async function* workedOut<K extends PortionKind, P extends Portions[K]['portion']>(
  { db, clock, zone, helper }: Parts,
  kind: K,
  portions: readonly P[],
): AsyncGenerator<[P, Portions[K]['result']]> {
  const terms = { zone, now: clock.now() };
  const rest = [...portions];
  const away: Promise<[P, Portions[K]['result'] | null]>[] = [];
  const ready: [P, Portions[K]['result'] | null][] = [];
  const give = () => {
    while (away.length < GIVEN && rest.length > 0) {
      const portion = rest[0];
      const asked = helper?.(kind, portion, terms);
      if (!asked) return;
      rest.shift();
      const answer = asked.then(
        (result): [P, Portions[K]['result']] => [portion, result],
        (): [P, null] => [portion, null],
      );
      away.push(answer);
      void answer.then((one) => {
        away.splice(away.indexOf(answer), 1);
        ready.push(one);
      });
    }
  };
  const here = (portion: P) => withRaw(db, (raw) => workOut(raw, kind, portion, terms));
  while (rest.length > 0 || away.length > 0 || ready.length > 0) {
    if (helper && portions.length >= WORTH_HELP) give();
    const come = ready.shift();
    // What the other thread could not do is done here, or fails here.
    if (come) yield [come[0], come[1] ?? (await here(come[0]))];
    else if (rest.length > 0) {
      const portion = rest.shift()!;
      yield [portion, await here(portion)];
    } else await Promise.race(away);
    await pause(1);
  }
}
