import { describe, expect, it } from 'vitest';
import { changedRows, recordAt, recordFile, type Plan } from './meeting';

const starts = Date.parse('2026-11-24T18:30:00Z');
const plan: Plan = {
  session: 'HAT-A-10',
  title: 'Week 10 live',
  starts,
  ends: starts + 75 * 60_000,
  people: [
    {
      person: 'Ines A (phone)',
      email: '',
      stays: [
        [-2, 10],
        [12.5, 80],
      ],
    },
    { person: 'Quill, Tobias', email: 'l2@learner.example', stays: [[1, 5]] },
  ],
};
const at = (minutes: number) => recordAt(plan, starts + minutes * 60_000);

describe('a meeting', () => {
  it('has everybody who has come by then, in order, with an end for whoever has gone', () => {
    expect(at(-3)).toEqual([]);
    expect(at(4).map(({ person, left }) => [person, left])).toEqual([
      ['Ines A (phone)', null],
      ['Quill, Tobias', null],
    ]);
    expect(at(13).map(({ left }) => left)).toEqual(['2026-11-24T18:40:00Z', '2026-11-24T18:35:00Z', null]);
    expect(at(100).at(-1)!.left).toBe('2026-11-24T19:45:00Z');
  });

  it('tells what has changed since it was last looked at', () => {
    expect(changedRows(at(4), at(4))).toEqual([]);
    expect(changedRows(at(4), at(13)).map(({ person }) => person)).toEqual([
      'Ines A (phone)',
      'Quill, Tobias',
      'Ines A (phone)',
    ]);
  });

  it('writes its record under headings of its own', () => {
    expect(recordFile(at(4)).split('\r\n').slice(0, 3)).toEqual([
      'Participant,E-mail,Join time,Leave time',
      'Ines A (phone),,2026-11-24T18:28:00Z,',
      '"Quill, Tobias",l2@learner.example,2026-11-24T18:31:00Z,',
    ]);
  });
});
