/**
 * Good news: so that contact is not only about trouble. Each has its day and its evidence. Where several of one learner fall within
 * seven days, the one first in this list stands, and the next may come seven days after it.
 */

/** What there may be to say, the first before the others. */
export const GOOD_NEWS = [
  'course_finished',
  'unit_finished',
  'came_back',
  'drift_down',
  'best_yet',
  'every_session_again',
  'first_post',
] as const;
export type GoodNewsKind = (typeof GOOD_NEWS)[number];

export const GOOD_NEWS_WORDS: Record<GoodNewsKind, string> = {
  course_finished: 'finished a course',
  unit_finished: 'finished a unit',
  came_back: 'came back and stayed',
  drift_down: 'back on course',
  best_yet: 'best score yet',
  every_session_again: 'every session again',
  first_post: 'first post',
};

/** Days within which one learner's news is one. */
const APART = 7;

/** Whole days without an event after which somebody comes back. */
const GAP = 7;
/** Days with an event that they stay for, of so many that begin with the return. */
const STAYS = { days: 3, of: 7 } as const;

export interface Return {
  /** The day that it is known: the last of the seven. */
  on: number;
  /** The day of the return, and how many whole days there was nothing before it. */
  returned: number;
  gap: number;
}

/**
 * Returns after at least 7 whole days without an event, followed by events on at least 3 different days within the 7 that begin
 * with the return.
 * @param days on which somebody did something in the course, ascending, each once
 * @example returnsOf([1, 10, 11, 12]) // [{ on: 16, returned: 10, gap: 8 }]
 */
export function returnsOf(days: readonly number[]): Return[] {
  return days.flatMap((day, index) => {
    if (index === 0) return [];
    const gap = day - days[index - 1] - 1;
    if (gap < GAP) return [];
    let seen = 0;
    while (index + seen < days.length && days[index + seen] < day + STAYS.of) seen += 1;
    return seen >= STAYS.days ? [{ on: day + STAYS.of - 1, returned: day, gap }] : [];
  });
}

/** Points that drift falls by, over so many days, and how many go by until the next is told. */
export const FALL = { by: 25, days: 14, again: 28 } as const;

/** A reading of one enrolment beside that of 14 days before, with the first edge that held on its day. */
export interface TwoReadings {
  day: number;
  score: number;
  before: number;
  edge: number;
}

/**
 * Days on which drift was at least 25 under its value of 14 days before, and under the first edge; none within 28 days after
 * another.
 * @param readings of one enrolment, by day
 */
export function fallsOf<R extends TwoReadings>(readings: readonly R[]): R[] {
  let last = -Infinity;
  return readings.filter(({ day, score, before, edge }) => {
    if (score >= edge || before - score < FALL.by || day - last <= FALL.again) return false;
    last = day;
    return true;
  });
}

const BETTER_BY = 10;

/** A graded score in per cent, in the order of grading. */
export interface GradedScore {
  at: number;
  percent: number;
  category: string | null;
}

/** Scores at least 10 percentage points above the best of at least 2 graded before in the same category. */
export function bestsOf<S extends GradedScore>(scores: readonly S[]): { score: S; before: number }[] {
  const known = new Map<string | null, { count: number; best: number }>();
  return scores.flatMap((score) => {
    const own = known.get(score.category) ?? { count: 0, best: -Infinity };
    known.set(score.category, { count: own.count + 1, best: Math.max(own.best, score.percent) });
    // A score of 70.00000000000001 is 70.
    const isBest = own.count >= 2 && score.percent - own.best >= BETTER_BY - 1e-9;
    return isBest ? [{ score, before: own.best }] : [];
  });
}

const SESSIONS = { row: 5, credit: 0.75 } as const;

/**
 * Counted sessions that are the 5th in a row with a credit of at least 0.75, where the one before these has none.
 * @param sessions of one learner in one course, counted ones alone, in time order
 */
export function attendedAgain<S extends { credit: number }>(sessions: readonly S[]): S[] {
  return sessions.filter((_, index) => {
    const first = index - SESSIONS.row + 1;
    if (first < 1 || sessions[first - 1].credit !== 0) return false;
    return sessions.slice(first, index + 1).every(({ credit }) => credit >= SESSIONS.credit);
  });
}

/**
 * Of one learner's news, what is told: where several fall within seven days the first in the list of kinds (of one kind the
 * earliest), and nothing until seven days after it.
 */
export function told<N extends { what: GoodNewsKind; on: number }>(news: readonly N[]): N[] {
  const rank = ({ what }: N) => GOOD_NEWS.indexOf(what);
  const rest = [...news].sort((a, b) => a.on - b.on || rank(a) - rank(b));
  const chosen: N[] = [];
  for (let at = 0; at < rest.length;) {
    const window = rest.slice(at).filter(({ on }) => on < rest[at].on + APART);
    const best = window.reduce((first, one) => (rank(one) < rank(first) ? one : first));
    chosen.push(best);
    const next = rest.findIndex(({ on }) => on >= best.on + APART);
    at = next < 0 ? rest.length : next;
  }
  return chosen;
}

interface WhatWentWell {
  course: string;
  evidence: Readonly<Record<string, string | number>>;
}

/**
 * What somebody did well, as it is said to them. It names the deed, never a score of drift, and no label.
 *
 * @example praiseSentence('unit_finished', { course: 'Walls', evidence: { unit: 'Stone' } }) // 'You have finished “Stone” in Walls. Well done.'
 */
export function praiseSentence(what: GoodNewsKind, { course, evidence }: WhatWentWell): string {
  const deeds: Record<GoodNewsKind, string> = {
    course_finished: `You have done everything that ${course} requires. Well done.`,
    unit_finished: `You have finished “${evidence.unit}” in ${course}. Well done.`,
    came_back: `It is good to see you back in ${course}. You have kept at it since, and that is the hard part.`,
    drift_down: `You have caught up in ${course} over the last two weeks, and it shows.`,
    best_yet: `“${evidence.item}” is your best work in ${course} so far, by some way.`,
    every_session_again: `You have been in each of the last five sessions of ${course}. It is good to have you there.`,
    first_post: `Thank you for what you wrote in ${evidence.item === undefined ? course : `“${evidence.item}”`}. The others gain by it.`,
  };
  return deeds[what];
}

/** A message to somebody of whom there is good news. */
export function praiseFor(what: GoodNewsKind, { course, evidence }: WhatWentWell): { subject: string; body: string } {
  // Braces would be read as fields of the message.
  const plain = (value: string) => value.replace(/[{}]/g, '');
  const subject = what === 'course_finished' ? `You finished ${plain(course)}` : `Well done in ${plain(course)}`;
  const deed = plain(praiseSentence(what, { course, evidence }));
  return { subject: subject.slice(0, 200), body: `Hello {{given_name}},\n\n${deed}\n\n{{my_name}}` };
}

/** A message to several of whom there is good news: each reads what they did well last. */
export const PRAISE_TO_MANY = {
  subject: 'Well done, {{given_name}}',
  body: 'Hello {{given_name}},\n\n{{good_news}}\n\n{{my_name}}',
};
