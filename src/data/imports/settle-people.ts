/** Whom the people in another system's file are: known ones found, unknown ones made where that was asked for. */
import { keyToSettle, partsOfName, spokenName, type PersonCells } from '@/core/imports/foreign/person-cells';
import type { SeenPerson } from '@/core/imports/foreign/survey';
import { foldName, nameKey } from '@/core/sessions/match';
import { prepared, type RawConnection } from '../db';
import { candidatesOf } from '../sessions/presence';

/** Whom a row is about; `nobody` where somebody has said that it is no learner. */
export type SettledPerson = { id: string; isStaff: boolean } | 'waits' | 'nobody';

export interface SettleOptions {
  create: boolean;
  /** Null for a look that is taken back. */
  runId: number | null;
  /** The day of enrolments that are made, until evidence of an earlier one is found. */
  day: number;
  /** Does each row of the file stand for a person of its own? */
  isOneRowEach: boolean;
}

export interface Made {
  learners: number;
  enrolments: number;
  courses: number;
  items: number;
}

interface KnownLearner {
  id: number;
  external_id: string;
  email: string | null;
  provisional: number | null;
}

/** Everybody of an installation by id and address, and staff: read once for a file. */
class Everybody {
  readonly byId = new Map<string, KnownLearner>();
  /** Null for an address that two share. */
  readonly byEmail = new Map<string, KnownLearner | null>();
  readonly learners = new Map<number, KnownLearner>();
  private readonly staffById = new Map<string, string>();
  private readonly staffByEmail = new Map<string, string>();
  private readonly staffByName = new Map<string, string | null>();

  constructor(raw: RawConnection) {
    const rows = raw
      .prepare('SELECT id, external_id, email, provisional, merged_into FROM learner ORDER BY merged_into IS NOT NULL')
      .all() as (KnownLearner & { merged_into: number | null })[];
    for (const { merged_into, ...row } of rows) this.add(row, merged_into ?? row.id);
    const staff = raw
      .prepare("SELECT external_id, email, trim(given_name || ' ' || family_name) FROM staff")
      .raw()
      .all() as [string, string, string][];
    for (const [id, email, name] of staff) {
      this.staffById.set(id, id);
      this.staffByEmail.set(email.toLowerCase(), id);
      const key = nameKey(name);
      this.staffByName.set(key, this.staffByName.has(key) ? null : id);
    }
  }

  add(row: KnownLearner, keptId: number): void {
    const kept = row.id === keptId ? row : this.learners.get(keptId);
    if (kept === undefined) return;
    this.learners.set(kept.id, kept);
    this.byId.set(row.external_id, kept);
    this.noteEmail(row.email, kept);
  }

  noteEmail(email: string | null, learner: KnownLearner): void {
    if (!email) return;
    const folded = email.trim().toLowerCase();
    const known = this.byEmail.get(folded);
    this.byEmail.set(folded, known === undefined || known?.id === learner.id ? learner : null);
  }

  staffOf({ id, email, name }: PersonCells): string | null {
    return (
      this.staffById.get(id) ??
      this.staffByEmail.get(email) ??
      (name === '' || email !== '' ? null : (this.staffByName.get(nameKey(name)) ?? null))
    );
  }
}

/** Opens what settles the people of one course after another. */
export function openPeople(raw: RawConnection, options: SettleOptions, made: Made) {
  const everybody = new Everybody(raw);
  const { create, runId, day, isOneRowEach } = options;
  const addLearner = prepared(
    raw,
    'INSERT INTO learner (external_id, given_name, family_name, email, provisional) VALUES (?, ?, ?, ?, ?)',
  );
  const enrol = prepared(
    raw,
    `INSERT INTO enrolment (learner_id, course_id, status, enrolled_day, provisional) VALUES (?, ?, 'active', ?, ?)
     ON CONFLICT DO NOTHING`,
  );

  function freeId({ id, email, name }: PersonCells): string {
    // An id that is a name would be found by it, and two may have that name.
    const wanted = id || email || `${spokenName(name)} (by name)`;
    let free = wanted;
    for (let number = 2; everybody.byId.has(free); number += 1) free = `${wanted} (${number})`;
    return free;
  }

  function make(seen: PersonCells): KnownLearner {
    // Meetings put the device behind a name, in brackets.
    const person = { ...seen, name: seen.name.replace(/\s*[([{<].*$/, '') || seen.name };
    const { given, family } =
      person.name === '' ? { given: person.email || person.id, family: '' } : partsOfName(person.name);
    const external_id = freeId(person);
    const email = person.email || null;
    const { lastInsertRowid } = addLearner.run(external_id, given, family, email, runId);
    const learner = { id: Number(lastInsertRowid), external_id, email, provisional: runId };
    everybody.add(learner, learner.id);
    made.learners += 1;
    return learner;
  }

  /** Fills in what a record that was made without a roster lacks. */
  function complete(learner: KnownLearner, person: PersonCells): void {
    if (learner.provisional === null) return;
    if (learner.email === null && person.email !== '') {
      prepared(raw, 'UPDATE learner SET email = ? WHERE id = ?').run(person.email, learner.id);
      learner.email = person.email;
      everybody.noteEmail(person.email, learner);
    }
    if (person.name === '') return;
    // Somebody who was known by an address alone is called by their name from here on.
    const { given, family } = partsOfName(person.name);
    prepared(
      raw,
      "UPDATE learner SET given_name = ?, family_name = ? WHERE id = ? AND family_name = '' AND given_name IN (external_id, email)",
    ).run(given, family, learner.id);
  }

  return (courseId: number | null, seen: ReadonlyMap<string, SeenPerson>): Map<string, SettledPerson> => {
    const settled = new Map<string, SettledPerson>();
    // Somebody in no course that is known would stand nowhere.
    const mayMake = create && courseId !== null;
    const names = new Map<string, Set<number>>();
    const note = (name: string, id: number) => {
      const key = nameKey(name);
      const known = names.get(key);
      if (known) known.add(id);
      else names.set(key, new Set([id]));
    };
    const aliases = new Map<string, number | null>();
    if (courseId !== null) {
      for (const { id, name } of candidatesOf(raw, courseId)) note(name, id);
      const rows = prepared(
        raw,
        `SELECT a.folded, ifnull(l.merged_into, a.learner_id) FROM presence_alias a LEFT JOIN learner l ON l.id = a.learner_id
         WHERE a.course_id = ?`,
      )
        .raw()
        .all(courseId) as [string, number | null][];
      for (const [folded, id] of rows) aliases.set(folded, id);
    }
    const take = (key: string, learner: KnownLearner, person: PersonCells) => {
      complete(learner, person);
      if (person.name !== '') note(person.name, learner.id);
      if (create && courseId !== null && enrol.run(learner.id, courseId, day, runId).changes > 0) made.enrolments += 1;
      settled.set(key, { id: learner.external_id, isStaff: false });
    };
    const known = ({ id, email, name }: PersonCells): KnownLearner | undefined =>
      everybody.byId.get(id) ??
      everybody.byEmail.get(email) ??
      (id === '' ? everybody.byId.get(name) : undefined) ??
      undefined;
    const addressed = new Map<string, number>();
    for (const person of seen.values()) {
      if (person.email === '' && person.id === '') continue;
      const key = nameKey(person.name);
      addressed.set(key, (addressed.get(key) ?? 0) + 1);
    }
    const aliasOf = (text: string) => aliases.get(foldName(text));
    const aliased = (text: string) => {
      const alias = aliasOf(text);
      return alias === undefined
        ? null
        : alias === null
          ? ('nobody' as const)
          : (everybody.learners.get(alias) ?? null);
    };
    /** Whom a name alone means in the course; several, none, or one that somebody has settled. */
    const named = (name: string): KnownLearner | 'several' | 'nobody' | null => {
      const ids = [...(names.get(nameKey(name)) ?? [])];
      if (ids.length === 1) return everybody.learners.get(ids[0]) ?? null;
      return aliased(name) ?? (ids.length > 1 ? 'several' : null);
    };

    // First whoever has an address or an id of their own, so that names alone find them.
    const rest: [string, SeenPerson][] = [];
    for (const [key, person] of seen) {
      const learner = known(person);
      if (learner) take(key, learner, person);
      else rest.push([key, person]);
    }
    const nameless: [string, SeenPerson][] = [];
    for (const [key, person] of rest) {
      if (person.email === '' && person.id === '') {
        nameless.push([key, person]);
        continue;
      }
      const staff = everybody.staffOf(person);
      if (staff !== null) {
        settled.set(key, { id: staff, isStaff: true });
        continue;
      }
      // What somebody has said of an address holds; a name alone tells where one person in the file has it.
      const settledBefore = aliased(keyToSettle(person));
      const isOneOfName = person.name !== '' && addressed.get(nameKey(person.name)) === 1;
      const byName = settledBefore ?? (isOneOfName ? named(person.name) : null);
      const isFree = (learner: KnownLearner) =>
        settledBefore !== null ||
        person.email === '' ||
        learner.email === null ||
        learner.email.toLowerCase() === person.email;
      if (byName !== null && typeof byName === 'object' && isFree(byName)) take(key, byName, person);
      else if (byName === 'nobody') settled.set(key, 'nobody');
      else if (mayMake && (byName === null || person.email !== '')) take(key, make(person), person);
      else settled.set(key, 'waits');
    }
    for (const [key, person] of nameless) {
      const byName = named(person.name);
      if (person.name === '') continue;
      // Two rows of one name are two people, unless somebody has said who it is.
      const isTwice = isOneRowEach && person.rows > 1 && aliasOf(spokenName(person.name)) === undefined;
      if (byName === 'nobody') settled.set(key, 'nobody');
      else if (byName === 'several' || isTwice) settled.set(key, 'waits');
      else if (byName !== null) take(key, byName, person);
      else {
        const staff = everybody.staffOf(person);
        if (staff !== null) settled.set(key, { id: staff, isStaff: true });
        else if (mayMake) take(key, make(person), person);
        else settled.set(key, 'waits');
      }
    }
    return settled;
  };
}
