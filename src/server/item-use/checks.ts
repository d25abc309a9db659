/** Saved checks: a question of who did and who did not, asked again each day, that says when too many have not. */
import { IsNotEmpty, IsOptional, Matches, MaxLength } from 'class-validator';
import { dayOf } from '@/core/time/zone';
import {
  countUnseen,
  dueChecks,
  listChecks,
  noteSeen,
  noteAnswer,
  deleteCheck,
  storeCheck,
  type SavedCheck,
} from '@/data/item-use/checks';
import { HIDDEN_TEXT } from '@/data/person';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import { answerWhoDid } from './who-did';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { segmentNames } from '../request/segment-names';

export class CheckInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(60, { message: 'is longer than 60 characters' }) name!: string;
  @IsNotEmpty({ message: 'is missing' })
  @Matches(/^\d{1,6}$/, { message: 'is not a number of learners' })
  limit!: string;
  @IsOptional() @MaxLength(2000, { message: 'is longer than 2000 characters' }) query?: string;
}

/** What of an address is the question. */
const ASKED = [
  'course',
  'group',
  'organisation',
  'item',
  'unit',
  'item_kind',
  'kind',
  'action',
  'period',
  'from',
  'to',
] as const;

/** The question of an address, as it is asked. */
export function questionOf(query: string): Record<string, string> {
  const params = new URLSearchParams(query);
  const askedPairs = ASKED.flatMap((name) => (params.get(name) ? [[name, params.get(name)!]] : []));
  return { ...segmentNames(params.get('in') ?? undefined), ...Object.fromEntries(askedPairs) };
}

/** Keeps a question, once it has been asked: one that cannot be answered is none. @throws InvalidInput, NotFound */
export async function saveCheck(runtime: Runtime, viewer: Viewer, values: Values): Promise<void> {
  const { name, limit, query = '' } = readInput(CheckInput, values);
  await answerWhoDid(runtime, viewer, questionOf(query));
  const created_at = runtime.clock.now();
  await storeCheck(runtime.db, { staff_id: viewer.staffId, name, query, limit_count: Number(limit), created_at });
  await runChecks(runtime);
}

export interface CheckShown extends SavedCheck {
  /** Whether it passed its number since its owner last looked. */
  fresh: boolean;
}

/** The viewer's own checks. A name may hold a person's, so it is hidden with them. */
export async function checksOf({ db }: Runtime, viewer: Viewer): Promise<CheckShown[]> {
  return (await listChecks(db, viewer.staffId)).map((check, index) => ({
    ...check,
    name: viewer.standInKey === null ? check.name : `Check ${index + 1} ${HIDDEN_TEXT}`,
    fresh: check.passed_at !== null && (check.seen_at ?? 0) < check.passed_at,
  }));
}

/** @throws NotFound */
export async function removeCheck({ db }: Runtime, viewer: Viewer, id: number): Promise<SavedCheck> {
  const gone = await deleteCheck(db, viewer.staffId, id);
  if (!gone) throw new NotFound('No such check of yours');
  return gone;
}

export async function unseenChecks({ db }: Runtime, viewer: Viewer): Promise<number> {
  return countUnseen(db, viewer.staffId);
}

export async function seeChecks({ db, clock }: Runtime, viewer: Viewer): Promise<void> {
  await noteSeen(db, viewer.staffId, clock.now());
}

/** Asks every check that has not been asked today, each with its owner's eyes. Returns how many were. */
export async function runChecks(runtime: Runtime): Promise<number> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  const due = await dueChecks(db, today);
  for (const check of due) {
    const staff = await staffById(db, check.staff_id);
    const answer = { last_day: today, last_count: null, last_of: null, passed_at: check.passed_at, fault: null };
    try {
      const viewer = await viewerOf(db, staff!);
      const { did: has, didNot } = await answerWhoDid(runtime, viewer, questionOf(check.query));
      const passed = didNot.length > check.limit_count;
      await noteAnswer(db, check.id, {
        ...answer,
        last_count: didNot.length,
        last_of: has.length + didNot.length,
        // It tells once, when the number is passed, and again only after it was not.
        passed_at: passed ? (check.passed_at ?? clock.now()) : null,
      });
    } catch (error) {
      if (!(error instanceof InvalidInput || error instanceof NotFound)) throw error;
      await noteAnswer(db, check.id, { ...answer, fault: error.message });
    }
  }
  return due.length;
}
