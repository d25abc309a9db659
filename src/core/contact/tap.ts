/** Answers that a message offers, each by one press. */

export const TAPS = {
  back: { label: 'I am back by …', asks: { label: 'By which day?', type: 'date' } },
  help: { label: 'I need help with …', asks: { label: 'With what?', type: 'text' } },
  call: { label: 'Please call me', asks: null },
  left: { label: 'I have left the course', asks: null },
} as const;
export type Tap = keyof typeof TAPS;
export const TAP_NAMES = Object.keys(TAPS) as Tap[];

/** The answers of a stored list, in their order. @example readTaps('call,back,who') // ['back', 'call'] */
export function readTaps(text: string): Tap[] {
  const named = text.split(',').map((word) => word.trim());
  return TAP_NAMES.filter((tap) => named.includes(tap));
}

/** What somebody said by a press, as the conversation shows it. @example sayTap('back', 'Thu 3 Dec') // 'I am back by Thu 3 Dec.' */
export function sayTap(tap: Tap, said: string): string {
  const sentences: Record<Tap, string> = {
    back: `I am back by ${said}.`,
    help: `I need help with: ${said}`,
    call: 'Please call me.',
    left: 'I have left the course.',
  };
  return sentences[tap];
}

/** The links as they stand under a mail. */
export function linksUnder(taps: readonly Tap[], address: string, until: string): string {
  const lines = taps.map((tap) => `${TAPS[tap].label}\n${address}/${tap}`);
  return `Answer with one press, until ${until}:\n\n${lines.join('\n\n')}`;
}
