/** How a call ended, each with the key that says so. */
export const CALL_OUTCOMES = {
  spoke: { key: '1', says: 'spoke' },
  left_message: { key: '2', says: 'left a message' },
  no_answer: { key: '3', says: 'no answer' },
  wrong_number: { key: '4', says: 'wrong number' },
  met: { key: '5', says: 'met in person' },
} as const;
export type CallOutcome = keyof typeof CALL_OUTCOMES;
/** Did a call get to somebody, or to their answering machine, or did they meet? One that nobody took has brought nobody back. */
export function hasReached(outcome: CallOutcome): boolean {
  return outcome !== 'no_answer' && outcome !== 'wrong_number';
}

export const CALL_OUTCOME_NAMES = Object.keys(CALL_OUTCOMES) as CallOutcome[];
