import { expect, it } from 'vitest';
import { countWords } from './word-count';

it.each([
  ['', 0],
  ['   … !!! —', 0],
  ['It’s 3 metres, isn’t it?', 5],
  ['naïve café Größe', 3],
  ['one-two', 2],
  ['مرحبا بالجميع', 2],
  ['🙂 hello 🙂', 1],
])('countWords(%j) is %i', (text, words) => expect(countWords(text)).toBe(words));
