import { describe, expect, it } from 'vitest';
import { isRowOf, openEraser } from './terms';

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
    const strange = openEraser({ ids: ['(((('], names: [{ given: '.*', family: 'x'.repeat(100_000) }], addresses: [] });
    expect(strange.finds('anything at all')).toBe(false);
    expect(strange.erase('((((')).toBe('erased');
  });

  it('says whose a row of a file is', () => {
    expect(isRowOf(TERMS, eraser, ['2026-11-20', 'l1 ', 'DRY'])).toBe(true);
    expect(isRowOf(TERMS, eraser, ['Ines Marrow', 'DRY'])).toBe(true);
    expect(isRowOf(TERMS, eraser, ['L10', 'DRY', 'Ines'])).toBe(false);
  });
});
