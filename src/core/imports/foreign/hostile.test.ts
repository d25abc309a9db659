import { describe, expect, it } from 'vitest';
import { recogniseFile } from '../recognise-file';
import { likeTitles } from './item-titles';

/** A hundred thousand of one sign. */
const many = (sign: string) => sign.repeat(100_000);
const SIGNS = ['<', '(', '[', '"', 'a', 'a ', ' ', ':', '1', '1.', '/', '-', '%', 'é', '\u0301', '\u202e', '\n', '\t'];

/** What takes a step for each pair of signs would be at it for minutes: whoever waits for a test gives up long before. */
describe('a file of one sign', () => {
  it.each(SIGNS)(
    'is looked at soon: %j',
    (sign) => {
      const text = many(sign);
      const rows = [
        ['Name', text, 'Last access', `Knots ${text}`],
        ['Ines Marrow', text, text, text],
        [text, text, text, '7'],
      ];
      expect(['foreign', 'unknown', 'ours']).toContain(recogniseFile(rows, ',').how);
      expect(['foreign', 'unknown', 'ours']).toContain(recogniseFile([[text, text, text], ...rows], ',').how);
      expect(likeTitles(text, [{ title: text }, { title: 'Knots' }]).length).toBeLessThan(3);
    },
    60_000,
  );
});
