/** A video meeting that plays a class: who is in it at any moment, and its record. */
import type { MeetingPerson } from '../../demo/sessions';

export interface Plan {
  session: string;
  title: string;
  starts: number;
  ends: number;
  people: MeetingPerson[];
}

/** One stay as a meeting's record and the API have it. */
export interface StayRow {
  person: string;
  email: string;
  entered: string;
  left: string | null;
}

const MINUTE = 60_000;
const iso = (at: number) => new Date(at).toISOString().replace('.000Z', 'Z');

/** The record up to an instant: everybody who has come by then, with an end for whoever has gone. */
export function recordAt({ starts, ends, people }: Plan, now: number): StayRow[] {
  return people
    .flatMap(({ person, email, stays }) =>
      stays.map(([from, to]) => ({
        person,
        email,
        from: starts + Math.round(from * MINUTE),
        to: Math.min(ends, starts + Math.round(to * MINUTE)),
      })),
    )
    .filter(({ from }) => from <= now)
    .sort((a, b) => a.from - b.from)
    .map(({ person, email, from, to }) => ({ person, email, entered: iso(from), left: to <= now ? iso(to) : null }));
}

/** Rows that are new, or have an end now, since another look. */
export function changedRows(before: readonly StayRow[], after: readonly StayRow[]): StayRow[] {
  const known = new Map(before.map((row) => [`${row.person}/${row.entered}`, row.left]));
  return after.filter((row) => {
    const key = `${row.person}/${row.entered}`;
    return !known.has(key) || known.get(key) !== row.left;
  });
}

/** The record as such services write it: headings of their own, which are mapped once. */
export function recordFile(rows: readonly StayRow[]): string {
  const cell = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  return [
    'Participant,E-mail,Join time,Leave time',
    ...rows.map((row) => [row.person, row.email, row.entered, row.left ?? ''].map(cell).join(',')),
    '',
  ].join('\r\n');
}
