const SEGMENTER = new Intl.Segmenter('en', { granularity: 'word' });

/**
 * How many words a text has, by the word boundaries of Unicode (UAX 29).
 *
 * @example countWords('It’s 3 metres, isn’t it?') // 5
 */
export function countWords(text: string): number {
  let words = 0;
  for (const { isWordLike } of SEGMENTER.segment(text)) if (isWordLike) words += 1;
  return words;
}
