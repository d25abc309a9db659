/** Attempts made of live statements, in whatever order these came. */

/** What a statement does to an attempt. */
export type AttemptStep = 'begins' | 'ends' | 'scores';

/** A statement about an attempt. */
export interface AttemptStatement {
  at: number;
  step: AttemptStep;
  score: number | null;
  points: number | null;
  /** How long the attempt took, where it says so. */
  durationMs: number | null;
  /** The sender's own name of the attempt; null where it gives none. */
  registration: string | null;
}

/** An attempt as statements give it. */
export interface LiveAttempt {
  startedAt: number | null;
  submittedAt: number | null;
  score: number | null;
  points: number | null;
  gradedAt: number | null;
}

/** Verbs of the standard's vocabularies, by the last part of their IRI. */
const STEPS: Readonly<Record<string, AttemptStep>> = {
  attempted: 'begins',
  initialized: 'begins',
  started: 'begins',
  launched: 'begins',
  completed: 'ends',
  passed: 'ends',
  failed: 'ends',
  submitted: 'ends',
  terminated: 'ends',
  scored: 'scores',
};

/** What a verb does to an attempt; null for any other. */
export function stepOf(verb: string): AttemptStep | null {
  return Object.hasOwn(STEPS, verb) ? STEPS[verb] : null;
}

/** Two ends with a score within this time are of one attempt: *completed* and *passed* come together. */
const TOGETHER = 10 * 60_000;

interface Open extends LiveAttempt {
  registration: string | null;
}

function isAnother(open: Open, next: AttemptStatement): boolean {
  if (next.registration !== null && open.registration !== null) return next.registration !== open.registration;
  if (open.submittedAt === null) return false;
  if (next.step === 'begins') return true;
  // A score may come long after its hand-in; another hand-in is another attempt.
  return next.step === 'ends' && next.at - open.submittedAt > TOGETHER;
}

/**
 * The attempts that some statements of one learner about one item tell of, in time order.
 *
 * @param statements in any order
 */
export function attemptsFromStatements(statements: readonly AttemptStatement[]): LiveAttempt[] {
  const attempts: Open[] = [];
  const byRegistration = new Map<string, Open>();
  for (const next of [...statements].sort((a, b) => a.at - b.at)) {
    const { at, step, score, points, durationMs, registration } = next;
    let open = registration === null ? attempts.at(-1) : byRegistration.get(registration);
    const last = attempts.at(-1);
    // Statements of one attempt may name it only sometimes.
    if (!open && registration !== null && last?.registration === null && !isAnother(last, next)) open = last;
    if (!open || isAnother(open, next)) {
      const startedAt = step === 'begins' ? at : durationMs === null ? null : at - durationMs;
      open = { startedAt, submittedAt: null, score: null, points: null, gradedAt: null, registration };
      attempts.push(open);
    }
    if (registration !== null) {
      open.registration = registration;
      byRegistration.set(registration, open);
    }
    if (step === 'ends') {
      open.submittedAt ??= at;
      open.startedAt ??= durationMs === null ? null : at - durationMs;
    }
    if (score !== null) Object.assign(open, { score, points: points ?? open.points, gradedAt: at });
  }
  return attempts.map(({ startedAt, submittedAt, score, points, gradedAt }) => ({
    startedAt,
    submittedAt,
    score,
    points,
    gradedAt,
  }));
}
