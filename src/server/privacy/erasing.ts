/** Erasing a person: asked for by a lead, taken back within 14 days, then done truly, in pieces, while others work. */
import { createHash, randomBytes } from 'node:crypto';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import { IsNotEmpty, IsString, MaxLength } from 'class-validator';
import { eraseStatement } from '@/core/privacy/statement';
import { TAKE_BACK_DAYS, openEraser, type PersonTerms } from '@/core/privacy/terms';
import { isLead } from '@/core/staff/rights';
import { DAY, dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { FROM_THE_BEGINNING, noteStaleIn } from '@/data/drift/stale';
import { rawTransaction, withRaw, writing } from '@/data/db';
import { findLearner } from '@/data/people/learners';
import {
  emptyEvents,
  emptyRecords,
  overwriteFreePages,
  pagesOf,
  recordsOf,
  rowsNaming,
  statementsNaming,
  storeErasedStatements,
  termsOf,
  writeAnew,
} from '@/data/privacy/erase';
import {
  addErasure,
  dueErasures,
  erasureOf,
  isImporting,
  listErasures,
  noteErasure,
  takeBack,
  type ErasureRow,
} from '@/data/privacy/erasures';
import type { Viewer } from '@/data/scope';
import { NotFound, readInput, type Values } from '../request/input';
import { isoOrNull } from '../request/values';
import { eraseInArchives } from '../archive/files';
import type { Runtime } from '../runtime';
import { backupsMade, type BackupMade } from '../backup/made';
import { markOf, noteMark } from './erased-marks';
import { eraseFiles } from './files-without';

const missing = { message: 'is missing' };

export class ErasureInput {
  /** Why, in words; gone with the person. */
  @MaxLength(1000, { message: 'is longer than 1,000 characters' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty(missing)
  reason!: string;
}

/** A learner, for whoever leads the programme. @throws NotFound */
async function learnerFor({ db }: Runtime, viewer: Viewer, learnerId: string): Promise<number> {
  if (!isLead(viewer)) throw new NotFound();
  const id = await findLearner(db, viewer, learnerId);
  if (id === null) throw new NotFound('No such learner');
  return id;
}

/**
 * Has somebody erased in 14 days. Asked for twice, the first holds.
 * @returns until when it can be taken back, as an instant
 * @throws InvalidInput, NotFound
 */
export async function askErasure(runtime: Runtime, viewer: Viewer, learnerId: string, values: Values): Promise<number> {
  const id = await learnerFor(runtime, viewer, learnerId);
  const { reason } = readInput(ErasureInput, values);
  const now = runtime.clock.now();
  return writing(runtime.db, async (trx) => {
    const known = await erasureOf(trx, id);
    if (known) return known.until;
    const until = now + TAKE_BACK_DAYS * DAY;
    await addErasure(trx, { learner_id: id, asked_at: now, staff_id: viewer.staffId || null, reason, until });
    await addAudit(trx, {
      at: now,
      staff_id: viewer.staffId,
      learner_id: id,
      what: 'asked for an erasure',
      subject: learnerId,
    });
    return until;
  });
}

/** Takes an erasure back before it begins. @throws NotFound where there is none, or it has begun */
export async function takeBackErasure(runtime: Runtime, viewer: Viewer, learnerId: string): Promise<void> {
  const id = await learnerFor(runtime, viewer, learnerId);
  const now = runtime.clock.now();
  await writing(runtime.db, async (trx) => {
    if (!(await takeBack(trx, id, now, viewer.staffId || null)))
      throw new NotFound('No erasure that can be taken back');
    await addAudit(trx, {
      at: now,
      staff_id: viewer.staffId,
      learner_id: id,
      what: 'took an erasure back',
      subject: learnerId,
    });
  });
}

export type ErasureState = 'waiting' | 'taken_back' | 'done';

export interface ErasureShown extends ErasureRow {
  state: ErasureState;
  /** Backups in which they still are. */
  backups: BackupMade[];
}

/** Erasures there are and were, newest first; of those that are done neither id nor reason. @throws NotFound for others than leads */
export async function erasures({ db }: Runtime, viewer: Viewer): Promise<ErasureShown[]> {
  if (!isLead(viewer)) throw new NotFound();
  const backups = await backupsMade({ db });
  return (await listErasures(db, viewer)).map((row) => ({
    ...row,
    // One that was made while they were not yet erased holds them.
    backups: row.taken_back_at === null ? backups.filter(({ at }) => row.done_at === null || at <= row.done_at) : [],
    state: row.done_at !== null ? 'done' : row.taken_back_at !== null ? 'taken_back' : 'waiting',
  }));
}

/** Erasures as a program gets them. */
export async function erasureAnswers(runtime: Runtime, viewer: Viewer) {
  return (await erasures(runtime, viewer)).map(({ asked_at, until, taken_back_at, done_at, backups, ...row }) => ({
    ...row,
    backups: backups.map(({ file, at }) => ({ file, made_at: isoOrNull(at) })),
    asked_at: isoOrNull(asked_at),
    until: isoOrNull(until),
    taken_back_at: isoOrNull(taken_back_at),
    done_at: isoOrNull(done_at),
  }));
}

/** Is somebody to be erased? Until when it can be taken back; null where not. */
export async function erasedOn({ db }: Pick<Runtime, 'db'>, learnerId: number): Promise<number | null> {
  const known = await erasureOf(db, learnerId);
  return known && known.done_at === null ? known.until : null;
}

/**
 * Erases everybody whose time has come. Ended at any place, it is begun again where it was: files, then the database in one
 * transaction, then what was freed. Waits while a file is taken, which may be of them.
 *
 * @returns how many were erased
 */
export async function eraseDue(runtime: Runtime): Promise<number> {
  const { db, clock, log } = runtime;
  const due = await dueErasures(db, clock.now());
  if (due.length === 0 || (await isImporting(db))) return 0;
  const left: PersonTerms[] = [];
  for (const erasure of due) {
    const ids = await recordsOf(db, erasure.learner_id);
    if (erasure.emptied_at !== null) continue;
    const terms = await termsOf(db, ids);
    const marks = terms.ids.map((id) => markOf(runtime, id));
    for (const mark of marks) noteMark(runtime, mark);
    await eraseFiles(runtime, terms, await pagesOf(db, ids));
    await eraseStatements(runtime, terms);
    await eraseInArchives(runtime, ids, terms);
    while (await withRaw(db, (raw) => raw.transaction(() => emptyEvents(raw, ids)).immediate())) await breathe();
    const named = await withRaw(db, (raw) => rowsNaming(raw, openEraser(terms)));
    const now = clock.now();
    const aliases = ids.map(() => `erased-${randomBytes(6).toString('hex')}`);
    await rawTransaction(db, (raw) =>
      emptyRecords(raw, {
        ids,
        terms,
        named,
        now,
        day: dayOf(now, runtime.zone),
        aliases,
        erasure: erasure.id,
        mark: marks.join(' '),
      }),
    );
    await writing(db, (trx) =>
      noteStaleIn(
        trx,
        'SELECT id, @fromDay FROM enrolment WHERE learner_id IN (SELECT value FROM json_each(@learners))',
        { fromDay: FROM_THE_BEGINNING, learners: JSON.stringify(ids) },
      ),
    );
    left.push(terms);
  }
  if (await overwriteFreePages(db, breathe)) log.info('an erasure waits until nobody reads');
  else {
    // What is stale is within pages that were moved about before texts were overwritten: looked for, and then all is written anew.
    if (left.length < due.length || (await isLeft(runtime, left))) await writeAnew(db);
    if (await overwriteFreePages(db, breathe)) return 0;
    await writing(db, async (trx) => {
      for (const { id } of due) await noteErasure(trx, id, { done_at: clock.now() });
    });
    log.info({ records: due.length }, 'erased');
    return due.length;
  }
  return 0;
}

/** Takes somebody out of the statements of learning, a part at a time. */
async function eraseStatements({ db }: Runtime, terms: PersonTerms): Promise<void> {
  const eraser = openEraser(terms);
  const sums = terms.addresses.map((one) => createHash('sha1').update(`mailto:${one.toLowerCase()}`).digest('hex'));
  const rewrite = (body: string) => eraseStatement(body, terms, sums, eraser);
  let after: number | null = 0;
  while (after !== null) {
    const from: number = after;
    const { last, found } = await withRaw(db, (raw) => statementsNaming(raw, from, rewrite));
    if (found.length > 0) await rawTransaction(db, (raw) => storeErasedStatements(raw, found));
    await breathe();
    after = last;
  }
}

/** Bytes of the database that are looked through at once. */
const STEP = 4 << 20;

/** Is anything by which they could be told still in the database's file? */
async function isLeft({ settings }: Runtime, terms: readonly PersonTerms[]): Promise<boolean> {
  const words = terms
    .flatMap(({ ids, addresses, names }) => [
      ...ids.filter((id) => id.length >= 6),
      ...addresses,
      ...names.map(({ given, family }) => `${given} ${family}`),
    ])
    .map((word) => Buffer.from(word));
  const longest = Math.max(0, ...words.map((word) => word.length));
  if (longest === 0) return false;
  const file = await open(join(settings.dataDir, 'lee-shore.sqlite'));
  try {
    const buffer = Buffer.alloc(STEP + longest);
    for (let at = 0; ; at += STEP) {
      const { bytesRead } = await file.read(buffer, 0, buffer.length, at);
      if (bytesRead === 0) return false;
      const part = buffer.subarray(0, bytesRead);
      if (words.some((word) => part.includes(word))) return true;
      await breathe();
    }
  } finally {
    await file.close();
  }
}
