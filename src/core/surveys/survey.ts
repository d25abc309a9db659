/** Answers to surveys, question by question: counts, shares, means, and what may be said of a part. */
import { groupBy } from '../group-by';
import { quantile } from '../statistics/quantile';

export const QUESTION_KINDS = ['choice', 'scale', 'text'] as const;
export type QuestionKind = (typeof QUESTION_KINDS)[number];

/** Fewer answers than this say too much of whoever gave them. */
export const FEWEST = 5;
/** What stands in the place of what is not said. */
export const WITHHELD = `fewer than ${FEWEST}`;

/** One answer; nobody's where `learnerId` is null. */
export interface SurveyAnswer {
  learnerId: number | null;
  askedAt: number;
  answer: string;
}

interface AnswerCount {
  answer: string;
  count: number;
  /** Of those who answered; of several answers of one person each counts. */
  share: number;
}

export interface QuestionSummary {
  /** People who answered; each answer without a name is one. */
  n: number;
  /** How many of those are without a name. */
  anonymous: number;
  answers: AnswerCount[];
  /** Of a scale; null for the others, and where nothing is a number. */
  mean: number | null;
  median: number | null;
  /** Newest first, of a question for words. */
  texts: SurveyAnswer[];
}

/**
 * The answers that count: none that is empty, none of one person twice. On a scale a person stands on one step, the one they
 * were last asked for.
 */
function counted(kind: QuestionKind, answers: readonly SurveyAnswer[]): SurveyAnswer[] {
  const said = answers.filter(({ answer }) => answer.trim() !== '');
  const byPerson = groupBy(
    said.filter(({ learnerId }) => learnerId !== null),
    ({ learnerId }) => learnerId,
  );
  const ofPeople = [...byPerson.values()].flatMap((own) => {
    if (kind === 'scale') return [own.reduce((last, one) => (one.askedAt >= last.askedAt ? one : last))];
    return [...new Map(own.map((one) => [one.answer.trim(), one])).values()];
  });
  return [...ofPeople, ...said.filter(({ learnerId }) => learnerId === null)];
}

/** How many people answered: each with a name once, each answer without one. */
function peopleIn(answers: readonly SurveyAnswer[]): { n: number; anonymous: number } {
  const anonymous = answers.filter(({ learnerId }) => learnerId === null).length;
  const named = new Set(answers.flatMap(({ learnerId }) => learnerId ?? [])).size;
  return { n: named + anonymous, anonymous };
}

/** A number as people write it, with a point or a comma; null for what is none. */
function numberOf(answer: string): number | null {
  const text = answer.trim().replace(',', '.');
  return /^[+-]?\d+(\.\d+)?$/.test(text) ? Number(text) : null;
}

/** Steps of a scale by their number, other answers by how often they were given. */
function inOrder(kind: QuestionKind, counts: AnswerCount[]): AnswerCount[] {
  const byName = (a: AnswerCount, b: AnswerCount) => (a.answer < b.answer ? -1 : 1);
  if (kind !== 'scale') return counts.sort((a, b) => b.count - a.count || byName(a, b));
  return counts.sort((a, b) => {
    const [x, y] = [numberOf(a.answer), numberOf(b.answer)];
    if (x === null || y === null) return Number(x === null) - Number(y === null) || byName(a, b);
    return x - y || byName(a, b);
  });
}

/**
 * What was answered to one question.
 *
 * @example choice, one person with "By night" and "At work", another with "At work": n 2, "At work" 2 (share 1), "By night" 1 (0.5)
 */
export function summarise(kind: QuestionKind, answers: readonly SurveyAnswer[]): QuestionSummary {
  const all = counted(kind, answers);
  const { n, anonymous } = peopleIn(all);
  const none = { n, anonymous, answers: [], mean: null, median: null, texts: [] };
  if (kind === 'text') return { ...none, texts: all.sort((a, b) => b.askedAt - a.askedAt) };
  // 4 and 4,0 are one step.
  const nameOf = ({ answer }: SurveyAnswer) => {
    const number = kind === 'scale' ? numberOf(answer) : null;
    return number === null ? answer.trim() : String(number);
  };
  const counts = [...groupBy(all, nameOf)].map(([answer, { length }]) => ({
    answer,
    count: length,
    share: n === 0 ? 0 : length / n,
  }));
  const numbers = kind === 'scale' ? all.flatMap(({ answer }) => numberOf(answer) ?? []) : [];
  return {
    ...none,
    answers: inOrder(kind, counts),
    mean: numbers.length === 0 ? null : numbers.reduce((sum, one) => sum + one, 0) / numbers.length,
    median: quantile(numbers, 0.5),
  };
}

/** A part of those who answered, such as a group. */
export interface SurveyPart {
  part: string;
  /** Null where it may not be said. */
  summary: QuestionSummary | null;
}

/**
 * What each part answered, where that gives nobody away: at least five answered in it, and at least five in all others together.
 *
 * @param partOf the part of an answer; null for one of none, such as one without a name among groups
 */
export function summariseParts<T extends SurveyAnswer>(
  kind: QuestionKind,
  answers: readonly T[],
  partOf: (answer: T) => string | null,
): SurveyPart[] {
  const placed = answers.filter((one) => partOf(one) !== null && one.answer.trim() !== '');
  const parts = [...groupBy(placed, (one) => partOf(one)!)].sort(([a], [b]) => a.localeCompare(b));
  return parts.map(([part, own]) => {
    const others = placed.filter((one) => partOf(one) !== part);
    const isSaid = peopleIn(counted(kind, own)).n >= FEWEST && peopleIn(counted(kind, others)).n >= FEWEST;
    return { part, summary: isSaid ? summarise(kind, own) : null };
  });
}
