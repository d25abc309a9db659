import { expect, it } from 'vitest';
import { linksUnder, readTaps, sayTap } from './tap';

it('reads what is stored, in our order, and nothing else', () => {
  expect(readTaps('left, call,who,back')).toEqual(['back', 'call', 'left']);
  expect(readTaps('')).toEqual([]);
  expect(readTaps('constructor')).toEqual([]);
});

it('says each answer in a sentence, and its link under the mail', () => {
  expect(sayTap('back', 'Thu 3 Dec')).toBe('I am back by Thu 3 Dec.');
  expect(sayTap('help', 'the quiz')).toBe('I need help with: the quiz');
  expect(linksUnder(['call'], 'https://a.example/answer/x', 'Tue 8 Dec')).toBe(
    'Answer with one press, until Tue 8 Dec:\n\nPlease call me\nhttps://a.example/answer/x/call',
  );
});
