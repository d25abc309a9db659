/** The record of a person: everything that is held on them, for a lead to hand over, as JSON or on paper. */
import type { Readable } from 'node:stream';
import { fullName } from '@/core/people/name';
import { isLead } from '@/core/staff/rights';
import { addAudit } from '@/data/audit';
import { withRaw } from '@/data/db';
import { findLearner, namesOf } from '@/data/people/learners';
import { recordsOf } from '@/data/privacy/erase';
import { RECORD_KINDS, recordRows, type RecordRow } from '@/data/privacy/record';
import type { Viewer } from '@/data/scope';
import { dateOfDay } from '@/core/time/zone';
import { partsPdf } from '../reports/paper/parts-pdf';
import { archivedOf } from '../archive/files';
import { InvalidInput, NotFound } from '../request/input';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';
import { writeLooks } from './looks';

interface KindOfRecord {
  kind: string;
  title: string;
  /** Where it comes from, in words. */
  from: string;
  count: number;
  rows: RecordRow[];
}

export interface PersonRecord {
  learner_id: string;
  name: string;
  as_of: string;
  kinds: KindOfRecord[];
}

const INSTANT = /(^at$|_at$|^first$|^last$|^until$|^entered$|^left$|^visit_start$|^last_access$|_until$)/;
const DAY_NUMBER = /(^day$|_day$)/;

/** Times as instants and days as dates, as every other answer has them. */
function readable(row: RecordRow): RecordRow {
  return Object.fromEntries(
    Object.entries(row).map(([name, value]) => {
      if (typeof value !== 'number') return [name, value];
      if (INSTANT.test(name)) return [name, isoOrNull(value)];
      return [name, DAY_NUMBER.test(name) ? dateOfDay(value) : value];
    }),
  );
}

/**
 * Everything that is held on a learner, also of records that were merged into theirs. For leads, and with their name: it is
 * handed to whom it is of.
 *
 * @throws NotFound, InvalidInput while names are hidden
 */
export async function personRecord(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<PersonRecord> {
  if (!isLead(viewer)) throw new NotFound();
  if (viewer.standInKey !== null)
    throw new InvalidInput([{ field: 'learner_id', message: 'has no record while names are hidden' }]);
  const { db, clock } = runtime;
  const id = await findLearner(db, viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  // Who looked is a part of it.
  await writeLooks(runtime);
  const ids = await recordsOf(db, id);
  const [person] = await namesOf(db, viewer, [id]);
  const kinds: KindOfRecord[] = [];
  for (const kind of RECORD_KINDS) {
    const rows = await withRaw(db, (raw) => [...recordRows(raw, kind, ids)].map(readable));
    if (kind.table === 'event') rows.push(...(await archivedOf(runtime, ids)).map(readable));
    kinds.push({ kind: kind.table, title: kind.title, from: kind.from, count: rows.length, rows });
  }
  const now = clock.now();
  await addAudit(db, {
    at: now,
    staff_id: viewer.staffId,
    learner_id: id,
    what: 'took the record of everything held',
    subject: person.learner_id,
  });
  return { learner_id: person.learner_id, name: fullName(person), as_of: isoOrNull(now)!, kinds };
}

/** Rows of a kind on paper: all of them stand in the JSON. */
const MOST_ON_PAPER = 300;

/** The same on paper: each kind with its rows, a line each. @throws as personRecord */
export async function recordPdf(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<Readable> {
  const record = await personRecord(runtime, viewer, learnerId);
  const parts = record.kinds
    .filter(({ count }) => count > 0)
    .map(({ title, from, count, rows }) => ({
      heading: `${title} (${count.toLocaleString('en-GB')})`,
      says: `From: ${from}.${count > MOST_ON_PAPER ? ` The first ${MOST_ON_PAPER.toLocaleString('en-GB')}; all stand in the JSON.` : ''}`,
      lines: rows.slice(0, MOST_ON_PAPER).map(sayRow),
    }));
  const nothing = record.kinds.filter(({ count }) => count === 0).map(({ title }) => title.toLowerCase());
  const last = { says: `Nothing is held of: ${nothing.join(', ')}.` };
  const title = `Everything held on ${record.name} (${record.learner_id})`;
  return partsPdf(title, nothing.length > 0 ? [...parts, last] : parts, {
    now: runtime.clock.now(),
    zone: runtime.zone,
  });
}

/** A row as a line: what is empty is left out. */
function sayRow(row: RecordRow): string {
  return Object.entries(row)
    .filter(([, value]) => value !== null && value !== '')
    .map(([name, value]) => `${name.replaceAll('_', ' ')}: ${value}`)
    .join(' · ');
}
