/** How a call ended, each with the key that says so. */
export const CALL_OUTCOMES = {
  reached: { key: '1', says: 'reached' },
  left_word: { key: '2', says: 'left word' },
  no_answer: { key: '3', says: 'no answer' },
  wrong_number: { key: '4', says: 'wrong number' },
} as const;
export type CallOutcome = keyof typeof CALL_OUTCOMES;
export const CALL_OUTCOME_NAMES = Object.keys(CALL_OUTCOMES) as CallOutcome[];
