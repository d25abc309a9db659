/** One of some that a form offers. */
export interface Choice {
  value: string;
  label: string;
}

/** Choices from what each says, by its value. @example choicesOf({ back: 'they come back', date: 'a day' }) */
export function choicesOf(words: Readonly<Record<string, string>>): Choice[] {
  return Object.entries(words).map(([value, label]) => ({ value, label }));
}
