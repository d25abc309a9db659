import { describe, expect, it } from 'vitest';
import { splitAnswer } from './contact/answer';
import { fieldFault, fill } from './contact/template';
import { feedbackParts, feedbackText, storedFeedback } from './grades/feedback';
import { csvLine, plainCell, safeCell } from './imports/cells';
import { foldHeading } from './imports/heading-name';
import { Matcher, foldName } from './sessions/match';
import { parseInstant } from './time/instant';
import { webAddress } from './courses/web-address';

const LENGTH = 100_000;
const repeat = (piece: string) => piece.repeat(Math.ceil(LENGTH / piece.length)).slice(0, LENGTH);

/** 100,000 characters of each sort that a pattern may stumble over. */
const TEXTS: Record<string, string> = {
  'one letter': repeat('a'),
  spaces: repeat(' '),
  'line breaks': repeat('\n'),
  'angle brackets': repeat('<'),
  'tags that never end': repeat('<a'),
  'tags within tags': repeat('<div>'),
  'closing tags': repeat('</p>'),
  quotes: repeat('"'),
  'quoted lines': repeat('> x\n'),
  'introductions of quotations': repeat('Ines wrote:\n'),
  'one long introduction': `${repeat('Ines wrote:')} x`,
  braces: repeat('{'),
  'fields that never end': repeat('{{ a '),
  'a field of spaces': `{{${repeat(' ')}`,
  entities: repeat('&amp'),
  'entities in full': repeat('&amp;'),
  links: repeat('http://'),
  'a link of full stops': `http://${repeat('.')}`,
  parentheses: repeat('('),
  'marks of our own': repeat('\u27E6'),
  digits: repeat('1'),
  signs: repeat('='),
  apostrophes: repeat("'"),
  accents: repeat('e\u0301'),
  'one name': repeat('Ines Marrow '),
};

/** Everything that runs a pattern over what people write. */
const READERS: Record<string, (text: string) => unknown> = {
  feedback: (text) => [feedbackParts(storedFeedback(text)), feedbackText(storedFeedback(text))],
  'feedback that was stored': (text) => feedbackParts(text),
  answers: splitAnswer,
  templates: (text) => [fieldFault(text), fill(text, {} as never)],
  cells: (text) => [csvLine([text]), plainCell(safeCell(text))],
  headings: foldHeading,
  names: (text) =>
    new Matcher([{ id: 1, learnerId: 'L1', name: 'Ines Marrow', email: null }]).propose({ person: text }),
  'folded names': foldName,
  times: (text) => parseInstant(text, 'UTC'),
  addresses: webAddress,
};

describe.each(Object.entries(READERS))('reading %s', (_, read) => {
  // A pattern that goes back over what it has read takes minutes for one of these: the test's own time limit finds it.
  it.each(Object.entries(TEXTS))('of 100,000 characters of %s comes to an end', (_name, text) => {
    expect(() => read(text)).not.toThrow();
  });
});

it('markup is followed to some depth and no further', () => {
  const deep = `${'<div>'.repeat(4000)}far down${'</div>'.repeat(4000)}`;
  expect(() => storedFeedback(deep)).not.toThrow();
  expect(storedFeedback(`<div><p>near</p></div>`)).toBe('near');
});
