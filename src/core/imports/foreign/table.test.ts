import { describe, expect, it } from 'vitest';
import { rowsOfTable, findTable, isSums } from './table';

const rows = (text: string) => text.split('\n').map((line) => (line === '' ? [] : line.split(';')));

describe('where a table begins', () => {
  it('in the first row, where nothing stands above it', () => {
    expect(findTable(rows('Name;E-mail;Group\nInes Marrow;i@s.example;A'))).toEqual({
      preamble: [],
      heading: ['Name', 'E-mail', 'Group'],
      names: ['Name', 'E-mail', 'Group'],
      points: null,
      bodyFrom: 1,
    });
  });

  it('below what a meeting says of itself', () => {
    const found = findTable(
      rows('Meeting report\nBegan;14/10/2026 18:30\n\nParticipant;Time in meeting\nInes;51 min 05 s'),
    );
    expect(found).toEqual({
      preamble: [
        { name: null, value: 'Meeting report' },
        { name: 'Began', value: '14/10/2026 18:30' },
      ],
      heading: ['Participant', 'Time in meeting'],
      names: ['Participant', 'Time in meeting'],
      points: null,
      bodyFrom: 4,
    });
  });

  it('below a title, with a row of points under the heading', () => {
    const found = findTable(
      rows(
        'Relevé de notes : Hatchery\n\nNom;Prénom;Courriel;Quiz 1;Essai;Total du cours\nBarème;;;20;100;\nMarrow;Ines;i@s.example;6,6;–;6,6',
      ),
    )!;
    expect(found.preamble).toEqual([{ name: 'Relevé de notes', value: 'Hatchery' }]);
    expect(found.heading).toEqual(['Nom', 'Prénom', 'Courriel', 'Quiz 1', 'Essai', 'Total du cours']);
    expect(found.points).toEqual([null, null, null, 20, 100, null]);
    expect(found.bodyFrom).toBe(4);
  });

  it('with points under nobody’s name, named or not', () => {
    expect(findTable(rows('Name;Knots;Bends\n;20;10\nInes;17;8'))).toMatchObject({
      points: [null, 20, 10],
      bodyFrom: 2,
    });
    expect(findTable(rows('Name;Knots;Bends\nInes;17;8'))).toMatchObject({ points: null, bodyFrom: 1 });
  });

  it('with units over items, joined', () => {
    const found = findTable(rows(';;Week 1;;Week 2\nName;E-mail;Quiz;Essay;Quiz\nInes;i@s.example;1;2;3'))!;
    expect(found.heading).toEqual(['Name', 'E-mail', 'Week 1: Quiz', 'Week 1: Essay', 'Week 2: Quiz']);
    expect(found.bodyFrom).toBe(2);
  });

  it('a row of an empty column at the end is no wider', () => {
    expect(findTable(rows('Name;Group;;\nInes;A;;'))!.heading).toEqual(['Name', 'Group']);
  });

  it('nowhere, where no row is words', () => {
    expect(findTable([])).toBeNull();
    expect(findTable(rows('1;2;3\n4;5;6'))).toBeNull();
    expect(findTable(rows('only one column\nof text'))).toBeNull();
    expect(findTable([['<'.repeat(100_000), '"'.repeat(100_000)]])).toBeNull();
  });
});

it('rows of totals and means are known by what they begin with', () => {
  for (const text of ['Moyenne', 'Average', 'Total', 'Overall mean', 'Gesamt', 'Durchschnitt'])
    expect(isSums([text, '3'])).toBe(true);
  expect(isSums(['', '', 'Mean', '3'])).toBe(true);
  for (const text of ['Totalle, Ines', 'Ines Marrow', 'Meaney, Oriel', '', 'Sumner, Petra'])
    expect(isSums([text, '3'])).toBe(false);
});

describe('several tables in one file', () => {
  const rows = [
    ['Attendees'],
    ['Name', 'Joined', 'Left', 'Mail'],
    ['Ines', '10:00', '11:00', 'ines@learner.example'],
    ['Name', 'Joined', 'Left', 'Mail'],
    ['Tobias', '10:00', '10:30', 'tobias@learner.example'],
    ['What was said'],
    ['Name', 'Time', 'Words'],
    ['Ines', '10:10', 'Which way?'],
  ];
  it('gives the longest, up to the next one and its title, without its heading said again', () => {
    const table = findTable(rows)!;
    expect([table.heading, table.bodyFrom]).toEqual([['Name', 'Joined', 'Left', 'Mail'], 2]);
    expect(rowsOfTable(rows.slice(2), table.heading).map(([name]) => name)).toEqual(['Ines', 'Tobias']);
  });
  it('takes a small one above for what the file says of itself', () => {
    const facts = [['Room', 'Title', 'Start time'], ['812', 'Walls', '18/11/2026 18:28'], ...rows.slice(1)];
    expect(findTable(facts)!.preamble).toEqual([
      { name: 'Room', value: '812' },
      { name: 'Title', value: 'Walls' },
      { name: 'Start time', value: '18/11/2026 18:28' },
    ]);
  });
  it('is one where the rest are people, also one of whom nothing is said', () => {
    const people = [['Ines', '✓', ''], ['Learner', '', ''], ['Tobias'], ['Halima', '', '✓']];
    expect(rowsOfTable(people, ['Name', 'Knots', 'Walls'])).toEqual(people);
  });
});
