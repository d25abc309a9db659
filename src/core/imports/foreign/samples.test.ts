/** What other systems might save, read step by step and held to the answers that were worked out beside it. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import { dayOf } from '../../time/zone';
import { delimiterOf } from '../csv-reader';
import { encodingOf } from '../encoding';
import { readGradeCell } from './grade-cell';
import { readAge, readLength } from './length';
import { recognise, type Recognised } from './recognise';
import { findTable, isSums, type TableHead } from './table';

const FOLDER = 'samples/foreign';
const ANSWERS = JSON.parse(readFileSync(join(FOLDER, 'expected.json'), 'utf8'));

interface Opened {
  head: TableHead;
  found: Recognised;
  rows: string[][];
  /** A cell of the column that has some role. */
  cell: (row: string[], role: string) => string;
}

function open(name: string): Opened {
  const bytes = readFileSync(join(FOLDER, name));
  // As a stream: read in one piece, Node.js takes windows-1252 for Latin 1.
  const text = new TextDecoder(encodingOf(bytes))
    .decode(bytes, { stream: true })
    .replace(/^\uFEFF/, '')
    .replaceAll('\r\n', '\n');
  const lines = Papa.parse<string[]>(text, { delimiter: delimiterOf(text) }).data;
  const head = findTable(lines)!;
  const rows = lines.slice(head.bodyFrom).filter((row) => row.some((cell) => cell !== '') && !isSums(row));
  const found = recognise(head, rows)!;
  return { head, found, rows, cell: (row, role) => row[found.roles.findIndex((one) => one === role)] };
}

describe('samples of other systems', () => {
  it.each(['teilnehmer.txt', 'notes.csv', 'done.csv', 'meeting.csv'])('%s is what it is', (name) => {
    expect(open(name).found.kind).toBe(ANSWERS[name].kind);
  });

  it('last accesses count back from when the list was made', () => {
    const { rows, cell } = open('teilnehmer.txt');
    const { made_at, days_quiet } = ANSWERS['teilnehmer.txt'];
    const made = Date.parse(made_at);
    const quiet = rows.map((row) => {
      const age = readAge(cell(row, 'last_access'));
      const zone = 'Europe/Dublin';
      return [
        cell(row, 'email').toLowerCase(),
        typeof age === 'number' ? dayOf(made, zone) - dayOf(made - age, zone) : null,
      ];
    });
    expect(Object.fromEntries(quiet)).toEqual(days_quiet);
  });

  it('scores stand under their items, out of what the row of points says', () => {
    const { rows, cell, found, head } = open('notes.csv');
    expect(found.items).toHaveLength(20);
    expect(found.items[1]).toEqual({ index: 4, title: 'Assignment 1', points: 100 });
    expect(found.leftOut).toEqual([{ index: 23, why: 'total' }]);
    expect(head.preamble).toEqual([{ name: 'Relevé de notes', value: 'Hatchery Technician' }]);
    const people = rows.map((row) => cell(row, 'email'));
    expect(people.sort()).toEqual(Object.keys(ANSWERS['notes.csv'].on_graded_work).sort());
    const all = rows.flatMap((row) => found.items.map(({ index }) => readGradeCell(row[index]).is));
    expect(new Set(all)).toEqual(new Set(['points', 'nothing']));
    // The total of each row is the sum of what was read.
    for (const row of rows) {
      const sum = found.items.reduce((known, { index }) => {
        const read = readGradeCell(row[index]);
        return known + (read.is === 'points' ? read.points : 0);
      }, 0);
      expect(readGradeCell(row[23])).toMatchObject({ points: expect.closeTo(sum, 5) });
    }
  });

  it('whoever has done what', () => {
    const { rows, cell, found } = open('done.csv');
    expect(found.items).toHaveLength(60);
    const done = rows.map((row) => [
      cell(row, 'email'),
      found.items.filter(({ index }) => readGradeCell(row[index]).is === 'done').length,
    ]);
    for (const [email, count] of done as [string, number][])
      expect(count).toBeGreaterThanOrEqual(ANSWERS['done.csv'].done[email]);
    expect(done.map(([email]) => email).sort()).toEqual(Object.keys(ANSWERS['done.csv'].done).sort());
  });

  it('minutes of a meeting, and when it began', () => {
    const { rows, cell, head } = open('meeting.csv');
    expect(head.preamble).toContainEqual({ name: 'Began', value: '14/10/2026 18:30' });
    const minutes = rows.map((row) => readLength(cell(row, 'duration'))! / 60_000);
    const wanted = Object.values(ANSWERS['meeting.csv'].minutes as Record<string, number>);
    expect(minutes.map((value) => Math.round(value * 1e4) / 1e4).sort()).toEqual(wanted.sort());
  });
});
