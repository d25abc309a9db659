import { sampleAnswer } from '@/sample-answers';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { attendanceOf } from './attendance';
import { Matcher } from './match';
import { presenceOf } from './presence';
import { suggestMark } from './suggest';

type Row = Record<string, string>;

const FOLDER = 'samples/small';

/** Rows of a file without quotes. */
function rowsOf(name: string): Row[] {
  const [heading, ...lines] = readFileSync(`${FOLDER}/${name}`, 'utf8').trim().split(/\r?\n/);
  const names = heading.split(',');
  return lines.map((line) => Object.fromEntries(line.split(',').map((cell, place) => [names[place], cell])));
}

const NOW = Date.parse('2026-11-24T09:10:00Z');
const roster = rowsOf('roster.csv');
const sessions = rowsOf('sessions.csv');

/** Presence and suggested mark of everybody seen in a session, by their ids. */
function seenIn(session: Row) {
  const path = `presence/${session.session_id}.csv`;
  const rows = existsSync(`${FOLDER}/${path}`) ? rowsOf(path) : [];
  const time = { start: Date.parse(session.starts_at), end: Date.parse(session.ends_at) };
  const matcher = new Matcher(
    roster
      .filter((row) => row.course === session.course)
      .map((row, id) => ({
        id,
        learnerId: row.learner_id,
        name: `${row.given_name} ${row.family_name}`,
        email: row.email,
      })),
  );
  const known = roster.filter((row) => row.course === session.course);
  const intervals = new Map<string, { entered: number; left: number | null }[]>();
  for (const { person, email, entered, left } of rows) {
    const found = matcher.match({ person, email });
    if (found.by === null || found.by === 'nobody') continue;
    const { learner_id } = known[found.id];
    const one = { entered: Date.parse(entered), left: left ? Date.parse(left) : null };
    intervals.set(learner_id, [...(intervals.get(learner_id) ?? []), one]);
  }
  return new Map(
    [...intervals].flatMap(([id, own]) => {
      const presence = presenceOf(own, time);
      return presence
        ? [[id, { presence, suggested: suggestMark(presence, time, 'Europe/Dublin').mark }] as const]
        : [];
    }),
  );
}

const iso = (at: number | null) => (at === null ? null : new Date(at).toISOString().replace('.000Z', 'Z'));
const round = (value: number, digits: number) => Math.round(value * 10 ** digits) / 10 ** digits;

describe('the samples', () => {
  const expected: Record<string, Record<string, unknown>> = sampleAnswer('presence');

  it.each(Object.keys(expected))('presence in %s is as worked out by hand', (id) => {
    const session = sessions.find((one) => one.session_id === id)!;
    const found = Object.fromEntries(
      [...seenIn(session)].map(([learner, { presence, suggested }]) => [
        learner,
        {
          minutes: round(presence.ms / 60_000, 4),
          share: round(presence.share, 5),
          first_in: iso(presence.firstIn),
          last_out: iso(presence.lastOut),
          reconnects: presence.reconnects,
          longest_gap_minutes: round(presence.longestGapMs / 60_000, 4),
          suggested,
        },
      ]),
    );
    expect(found).toEqual(expected[id]);
  });

  it('attendance is as worked out by hand, from the marks of the rolls', () => {
    const marks = rowsOf('marks.csv');
    const found = roster.map(({ learner_id, course, group, enrolled_on, ended_on }) => {
      const codes = sessions
        .filter((one) => one.course === course && (one.group === '' || one.group === group))
        .filter((one) => one.cancelled !== 'yes' && Date.parse(one.ends_at) <= NOW)
        .filter((one) => enrolled_on <= one.starts_at.slice(0, 10))
        .filter((one) => ended_on === '' || ended_on > one.starts_at.slice(0, 10))
        .flatMap((one) => {
          const roll = marks.filter((mark) => mark.session_id === one.session_id);
          if (roll.length === 0) return [];
          return roll.filter((mark) => mark.learner_id === learner_id).map(({ mark }) => mark);
        });
      const { counted, credit, rate } = attendanceOf(codes);
      return [`${learner_id}|${course}`, { counted, credit, rate: rate === null ? null : round(rate, 5) }] as const;
    });
    const hand: Record<string, unknown> = sampleAnswer('attendance');
    for (const [key, value] of found.filter(([name]) => name in hand)) expect([key, value]).toEqual([key, hand[key]]);
    expect(found.filter(([name]) => name in hand)).toHaveLength(Object.keys(hand).length);
  });

  it('every file of presence has its session', () => {
    const ids = new Set(sessions.map((one) => `${one.session_id}.csv`));
    expect(readdirSync(`${FOLDER}/presence`).filter((name) => !ids.has(name))).toEqual([]);
  });
});
