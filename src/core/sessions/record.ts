/** One session in a learner's record: whether they were there, and what there is to say of it. */
import { sayDay, sayInstant, sayTime } from '../time/words';
import { MINUTE } from '../time/zone';
import type { Mark } from './attendance';

/** How a session went for one learner; null where nothing is known of it. */
export type SessionOutcome = 'attended' | 'missed' | 'excused' | null;

/** What is known of one learner in one session. */
export interface SessionFacts {
  title: string;
  day: number;
  starts_at: number;
  ends_at: number;
  cancelled: number;
  roll_at: number | null;
  mark: string | null;
  ms: number | null;
  first_in: number | null;
  last_out: number | null;
  /** Nobody has noted that they left. */
  is_open: number | null;
  /** When they checked in. */
  checked_in_at: number | null;
  /** Is how it went known by something else than a mark? */
  is_provisional: number | null;
}

/** An outcome in a word; null where nothing is known, and for one that has not ended, whose mark may still change. */
export function wordOfOutcome(
  { credit, counts, ends_at }: { credit: number | null; counts: number | null; ends_at: number },
  now: number,
): SessionOutcome {
  if (credit === null || ends_at > now) return null;
  if (counts === 0) return 'excused';
  return credit > 0 ? 'attended' : 'missed';
}

/**
 * What there is of a session, as evidence.
 *
 * @example saySession(facts, marks, zone) // 'session on Thu 12 Nov: in 18:31, out 18:35, 4 of 90 min'
 */
export function saySession(one: SessionFacts, marks: ReadonlyMap<string, Mark>, zone: string, now: number): string {
  const length = Math.round((one.ends_at - one.starts_at) / MINUTE);
  const seen =
    one.first_in === null || one.last_out === null
      ? null
      : isInNow(one, now)
        ? `in since ${sayTime(one.first_in, zone)}`
        : `in ${sayTime(one.first_in, zone)}, out ${sayTime(one.last_out, zone)}, ${Math.round(one.ms! / MINUTE)} of ${length} min`;
  const mark = one.mark === null ? null : (marks.get(one.mark)?.label ?? one.mark);
  const checkedIn = one.checked_in_at === null ? null : `checked in ${sayTime(one.checked_in_at, zone)}`;
  const provisional = one.is_provisional === 1 && one.ends_at <= now ? 'provisional, the roll is not closed' : null;
  const known = [seen, checkedIn, mark, provisional].filter(Boolean).join(', ');
  if (one.cancelled === 1) return `session on ${sayDay(one.day)}: cancelled`;
  return `session on ${sayDay(one.day)}: ${known || 'nothing known'}`;
}

/** Is it on, and are they in it? Then nobody knows yet for how long. */
export function isInNow({ ends_at, is_open }: Pick<SessionFacts, 'ends_at' | 'is_open'>, now: number): boolean {
  return ends_at > now && is_open === 1;
}

/** A session in a message: "Week 10 live (Wed 25 Nov, 18:30)". */
export function nameSession(one: Pick<SessionFacts, 'title' | 'starts_at'>, zone: string, now: number): string {
  return `${one.title} (${sayInstant(one.starts_at, zone, now)})`;
}

/** Sessions at most that a message names. */
const NAMED = 5;

/**
 * Missed sessions in a message, the last ones: "Week 8 live (Wed 11 Nov, 18:30) and Week 9 live (Wed 18 Nov, 18:30)".
 * Null for none.
 */
export function nameMissed(
  missed: readonly Pick<SessionFacts, 'title' | 'starts_at'>[],
  zone: string,
  now: number,
): string | null {
  const names = missed.slice(-NAMED).map((one) => nameSession(one, zone, now));
  if (names.length === 0) return null;
  const last = names.pop()!;
  const more = missed.length > NAMED ? `${missed.length - NAMED} earlier ones, ` : '';
  return names.length === 0 ? last : `${more}${names.join(', ')} and ${last}`;
}

/** The sessions missed one after the other at the end of a record in time order; excused ones are passed over. */
export function missedInARow<T extends { outcome: SessionOutcome }>(record: readonly T[]): T[] {
  const counted = record.filter(({ outcome }) => outcome === 'attended' || outcome === 'missed');
  const last = counted.findLastIndex(({ outcome }) => outcome === 'attended');
  return counted.slice(last + 1);
}
