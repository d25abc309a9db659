import { describe, expect, it } from 'vitest';
import { guessItemKind } from './item-kind';
import { openPersonReader, partsOfName, personInWords, spokenName } from './person-cells';

describe('whom a row is about', () => {
  it('one column may hold ids, addresses and names', () => {
    const read = openPersonReader({ roles: ['account', 'name'] });
    expect(read(['INES@learner.example', 'Marrow, Ines'])).toEqual({
      id: '',
      email: 'ines@learner.example',
      name: 'Marrow, Ines',
    });
    expect(read(['imarrow', 'ines@learner.example'])).toEqual({
      id: 'imarrow',
      email: 'ines@learner.example',
      name: '',
    });
    expect(read(['', ''])).toEqual({ id: '', email: '', name: '' });
  });

  it('keeps given and family name apart where the file does', () => {
    const read = openPersonReader({ roles: ['given_name', 'family_name'] });
    const { name } = read(['María José', 'García López']);
    expect(partsOfName(name)).toEqual({ given: 'María José', family: 'García López' });
  });

  it.each([
    ['Quarrie, Bram', 'Bram Quarrie'],
    ['Bram Quarrie', 'Bram Quarrie'],
    ['Bram', 'Bram'],
    ['a, b, c', 'a, b, c'],
  ])('%s is spoken %s', (name, spoken) => expect(spokenName(name)).toBe(spoken));

  it.each([
    ['Ines van der Marrow', 'Ines', 'van der Marrow'],
    ['Ines', 'Ines', ''],
    ['Anna Lena Quill', 'Anna Lena', 'Quill'],
  ])('%s is %s, %s', (name, given, family) => expect(partsOfName(name)).toEqual({ given, family }));

  it('is said with what else the file has', () => {
    expect(personInWords({ id: '', email: 'a@learner.example', name: 'Farrow, A.' })).toBe(
      'A. Farrow (a@learner.example)',
    );
    expect(personInWords({ id: '7', email: '', name: '' })).toBe('7');
  });
});

describe('what an item is likely to be', () => {
  it.each([
    ['Knots quiz', [], false, 'quiz'],
    ['Hausaufgabe 3', [], false, 'assignment'],
    ['Welcome', ['played'], false, 'video'],
    ['Welcome', ['posted', 'viewed'], false, 'discussion'],
    ['Welcome', [], true, 'assignment'],
    ['Welcome', [], false, 'page'],
  ] as const)('%s (%s, scored: %s) is a %s', (title, actions, isScored, kind) => {
    expect(guessItemKind(title, actions, isScored)).toBe(kind);
  });
});
