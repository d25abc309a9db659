import { describe, expect, it } from 'vitest';
import { foldText } from '../people/fold';
import { openEraser, rowsOf } from './terms';

const TERMS = {
  ids: ['L1', 'saltholm-77'],
  names: [{ given: 'Ines', family: 'Marrow' }],
  addresses: ['ines@home.example', '+44 20 7946 0001', ''],
};
const eraser = openEraser(TERMS);

describe('what of somebody stands in a text', () => {
  it('is their name in either order, and their addresses, in any case', () => {
    expect(eraser.erase('Call INES  Marrow (ines@HOME.example, +44 20 7946 0001)')).toBe(
      'Call somebody erased (erased, erased)',
    );
    expect(eraser.erase('Marrow, Ines; Marrow Ines')).toBe('somebody erased; somebody erased');
  });

  it('is found where it is written without its accents', () => {
    const accented = openEraser({ ids: [], names: [{ given: 'Béibhinn', family: 'Søreide' }], addresses: [] });
    for (const text of ['Béibhinn Søreide', 'béibhinn søreide', foldText('Béibhinn Søreide')])
      expect(accented.erase(text)).toBe('somebody erased');
  });

  it('is no part of a longer word, and no given name alone', () => {
    for (const text of ['Ines Marrowbone', 'Ines', 'Mrs Marrow', 'xines@home.example', 'saltholm-778', 'Week L1'])
      expect([text, eraser.finds(text)]).toEqual([text, false]);
  });

  it('is a long id anywhere, a short one where the text says that it is a learner', () => {
    expect(eraser.erase('moved saltholm-77 to B')).toBe('moved erased to B');
    expect(eraser.erase('course=DRY&learner=L1&x=L1')).toBe('course=DRY&learner=erased&x=L1');
    expect(eraser.erase('{"learner_id":"L1","items":["L1"],"whose":{"learners":["L2","L1"]}}')).toBe(
      '{"learner_id":"erased","items":["L1"],"whose":{"learners":["L2","erased"]}}',
    );
  });

  it('is found as JSON and an address of the web write it', () => {
    const quoted = openEraser({ ids: [], names: [], addresses: ['o"dell@x.example'] });
    expect(quoted.erase(JSON.stringify({ to: 'o"dell@x.example' }))).toBe('{"to":"erased"}');
    expect(openEraser({ ...TERMS, addresses: [] }).finds('nobody')).toBe(false);
    expect(openEraser({ ids: [], names: [], addresses: ['a+b@x.example'] }).erase('q=a%2Bb%40x.example&r=1')).toBe(
      'q=erased&r=1',
    );
  });

  it('takes signs of expressions and a very long name as they are', () => {
    const strange = openEraser({
      ids: ['(((((((('],
      names: [{ given: '.*', family: 'x'.repeat(100_000) }],
      addresses: [],
    });
    expect(strange.finds('anything at all')).toBe(false);
    expect(strange.erase('((((((((')).toBe('erased');
  });

  it('is no year, count or short number, and nothing that is an item as well', () => {
    const numbered = openEraser({
      ids: ['2026', '104233', 'intro-1'],
      names: [],
      addresses: ['12'],
      ambiguous: ['intro-1'],
    });
    for (const text of ['2026-11-20T10:00:00Z', '104233 rows', 'opened intro-1', '12 of 12'])
      expect([text, numbered.finds(text)]).toEqual([text, false]);
    expect(numbered.erase('learner=2026&from=2026-11-01')).toBe('learner=erased&from=2026-11-01');
  });

  it('says whose the rows of a file are, by the columns that say of whom they are', () => {
    const isTheirs = rowsOf({ ...TERMS, ids: ['5'] }, eraser, ['time', 'Learner ID', 'score']);
    expect(isTheirs(['2026-11-20', ' 5 ', '7'])).toBe(true);
    expect(isTheirs(['2026-11-20', '6', '5'])).toBe(false);
    expect(isTheirs(['Ines Marrow', '6', '5'])).toBe(true);
    // Without such a column an id may stand anywhere.
    expect(rowsOf(TERMS, eraser, ['a', 'b'])(['x', 'l1'])).toBe(true);
    expect(rowsOf(TERMS, eraser, ['a', 'b'])(['x', 'L10'])).toBe(false);
  });
});
