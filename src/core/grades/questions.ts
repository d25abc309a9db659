/** The questions of an item, by classical test theory. */

/** One answer to one question, in one attempt. */
export interface Answer {
  learnerId: number;
  questionId: number;
  attempt: number;
  answer: string;
  rightAnswer: string | null;
  score: number | null;
  points: number | null;
}

interface AnswerCount {
  answer: string;
  count: number;
  isRight: boolean;
  learnerIds: number[];
}

export interface QuestionStatistics {
  questionId: number;
  n: number;
  /** Mean share of the points; null where no answer has any. */
  facility: number | null;
  /** Correlation with the rest of the attempt; null under ten answers or without variance. */
  discrimination: number | null;
  /** The most frequent first. */
  answers: AnswerCount[];
  rightAnswers: string[];
}

/** Fewer answers than these say nothing of a question. */
const ENOUGH = 10;

/** Pearson's correlation; null without variance in either. */
export function correlation(x: readonly number[], y: readonly number[]): number | null {
  const n = x.length;
  if (n === 0) return null;
  const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / n;
  const [meanX, meanY] = [mean(x), mean(y)];
  let [xy, xx, yy] = [0, 0, 0];
  for (let i = 0; i < n; i += 1) {
    const [dx, dy] = [x[i] - meanX, y[i] - meanY];
    xy += dx * dy;
    xx += dx * dx;
    yy += dy * dy;
  }
  // Sums of tenths leave a rest where there is no variance.
  return xx < 1e-12 || yy < 1e-12 ? null : xy / Math.sqrt(xx * yy);
}

/** Of each learner, the answers of their first or last attempt that has any. */
export function answersOf(answers: readonly Answer[], attempts: 'first' | 'last'): Answer[] {
  const chosen = new Map<number, number>();
  for (const { learnerId, attempt } of answers) {
    const known = chosen.get(learnerId);
    if (known === undefined || (attempts === 'first' ? attempt < known : attempt > known))
      chosen.set(learnerId, attempt);
  }
  return answers.filter(({ learnerId, attempt }) => chosen.get(learnerId) === attempt);
}

/**
 * Facility, discrimination (the corrected item-total correlation) and the answers given of each question, missed most
 * first.
 *
 * @param answers of one attempt of each learner, as `answersOf` gives them
 */
export function questionStatistics(answers: readonly Answer[]): QuestionStatistics[] {
  const totals = new Map<number, number>();
  const byQuestion = new Map<number, Answer[]>();
  for (const answer of answers) {
    totals.set(answer.learnerId, (totals.get(answer.learnerId) ?? 0) + (answer.score ?? 0));
    const known = byQuestion.get(answer.questionId);
    if (known) known.push(answer);
    else byQuestion.set(answer.questionId, [answer]);
  }
  const figures = [...byQuestion].map(([questionId, own]): QuestionStatistics => {
    const shares = own.flatMap(({ score, points }) => (score !== null && points ? [score / points] : []));
    const scores = own.map(({ score }) => score ?? 0);
    const rest = own.map(({ learnerId, score }) => totals.get(learnerId)! - (score ?? 0));
    const counts = new Map<string, AnswerCount>();
    for (const { answer, rightAnswer, learnerId } of own) {
      const count = counts.get(answer) ?? { answer, count: 0, isRight: false, learnerIds: [] };
      count.count += 1;
      count.isRight ||= rightAnswer !== null && rightAnswer === answer;
      count.learnerIds.push(learnerId);
      counts.set(answer, count);
    }
    return {
      questionId,
      n: own.length,
      facility: shares.length === 0 ? null : shares.reduce((sum, share) => sum + share, 0) / shares.length,
      discrimination: own.length < ENOUGH ? null : correlation(scores, rest),
      answers: [...counts.values()].sort((a, b) => b.count - a.count || (a.answer < b.answer ? -1 : 1)),
      rightAnswers: [...new Set(own.flatMap(({ rightAnswer }) => rightAnswer ?? []))],
    };
  });
  return figures.sort((a, b) => (a.facility ?? 2) - (b.facility ?? 2) || b.n - a.n || a.questionId - b.questionId);
}
