/** Settling a claim: "says they worked last week". */
import { sayCount, sayDay, sayInstant, sayLength } from '../time/words';

export interface ClaimFacts {
  visits: readonly { first: number; last: number; ms: number }[];
  /** Different items touched. */
  items: number;
  /** Titles handed in, in time order. */
  /** What the log says was handed in, and results do not. */
  differing?: readonly { item: string; day: number }[];
  handIns: readonly string[];
  /** What there is of each session of the period, in words, and whether it was attended. */
  sessions: readonly { says: string; isAttended: boolean }[];
  /** Days of the period on which the log is incomplete, first and last. */
  gaps: readonly (readonly [number, number])[];
}

export interface Verdict {
  /** False when the log has a hole in the period: what is missing may have happened in it. */
  settled: boolean;
  says: string;
}

/** The one sentence, from the facts of a period. */
export function claimVerdict(
  { visits, items, handIns, differing = [], sessions, gaps }: ClaimFacts,
  zone: string,
): Verdict {
  const found = visits.length === 0 ? 'no visit' : sayVisits(visits, items, zone);
  const handed = handIns.length === 0 ? 'nothing handed in' : `handed in ${handIns.join(', ')}`;
  const otherwise = differing.map(
    ({ item, day }) => `the log says ${item} was handed in on ${sayDay(day)}, results do not`,
  );
  const handedIn = [handed, ...otherwise, ...(sessions.length > 0 ? [sayAttended(sessions)] : [])].join('; ');
  if (gaps.length === 0) return { settled: true, says: `${capital(found)}; ${handedIn}.` };
  const days = gaps.map(([from, to]) => (from === to ? sayDay(from) : `${sayDay(from)} to ${sayDay(to)}`)).join(', ');
  return {
    settled: false,
    says: `Cannot be settled: the log is incomplete ${gaps.length === 1 && gaps[0][0] === gaps[0][1] ? 'on' : 'from'} ${days}. What there is: ${found}; ${handedIn}.`,
  };
}

/** Sessions that are said one by one. */
const SAID = 2;

function sayAttended(sessions: ClaimFacts['sessions']): string {
  if (sessions.length <= SAID) return sessions.map(({ says }) => says).join('; ');
  return `attended ${sessions.filter(({ isAttended }) => isAttended).length} of ${sessions.length} sessions`;
}

function sayVisits(visits: ClaimFacts['visits'], items: number, zone: string): string {
  const ms = visits.reduce((sum, visit) => sum + visit.ms, 0);
  const last = Math.max(...visits.map((visit) => visit.last));
  const touched = items === 0 ? '' : `, ${sayCount(items, 'item')}`;
  return `${sayCount(visits.length, 'visit')}, about ${sayLength(ms)}${touched}, last on ${sayInstant(last, zone).replace(',', '')}`;
}

function capital(text: string): string {
  return text[0].toUpperCase() + text.slice(1);
}
