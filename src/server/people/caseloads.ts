/**
 * Own caseloads, over courses: a club, a team, an employer's people. By hand, by a rule (any filters of the list of learners), or
 * both, with people left out by hand; shared with colleagues, who see through it only whom they may see.
 */
import {
  ArrayMaxSize,
  IsArray,
  IsIn,
  IsNotEmpty,
  IsOptional,
  IsString,
  Matches,
  MaxLength,
  ValidateIf,
} from 'class-validator';
import { without } from '@/core/without';
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { HIDDEN_TEXT } from '@/data/person';
import {
  addByHand,
  addCaseload,
  byHand,
  changeCaseload,
  keptCaseloads,
  putByHand,
  removeByHand,
  removeCaseload,
  shareCaseload,
  type KeptCaseload,
} from '@/data/people/caseloads';
import { findLearners, keepInScope, learnersById, matchingIds } from '@/data/people/learners';
import type { Caseload, Viewer } from '@/data/scope';
import { colleaguesToShareWith } from '@/data/staff/staff-accounts';
import { isStaffMember } from '@/core/staff/rights';
import { InvalidInput, NotFound, readInput, type FieldFault, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { openPlainView, withReadings } from '../request/plain-view';
import { segmentNames } from '../request/segment-names';
import { readFilter } from './learner-filter';
import { LearnersQuery, filterAsked } from './learner-query';

/** A caseload as it is listed. */
export interface CaseloadShown {
  id: number;
  name: string;
  owner: string | null;
  isOwn: boolean;
  rule: Record<string, string> | null;
  shared: { id: number; name: string }[];
  /** How many are in it whom the viewer sees, and how many were put in or left out by hand. */
  learners: number;
  byHand: { in: number; out: number };
  /** Why its rule finds nobody any more, in words; null where it holds. */
  fault: string | null;
}

const list = (of: string) => ({ message: `is not a list of ${of}` });

class CaseloadInput {
  // The one that stands last is asked first.
  @MaxLength(80, { message: 'is longer than 80 characters' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty({ message: 'is missing' })
  name!: string;
  @IsOptional()
  @ArrayMaxSize(20_000, { message: 'are more than 20,000' })
  @IsArray(list('learners’ ids'))
  learners?: unknown[];
  @IsOptional()
  @ArrayMaxSize(20_000, { message: 'are more than 20,000' })
  @IsArray(list('learners’ ids'))
  left_out?: unknown[];
  @IsOptional()
  @ArrayMaxSize(500, { message: 'are more than 500' })
  @IsArray(list('colleagues'))
  shared_with?: unknown[];
}

/** One's own or a shared caseload, by its number or its name. @throws NotFound */
async function findCaseload({ db }: Pick<Runtime, 'db'>, viewer: Viewer, key: string): Promise<KeptCaseload> {
  const byNumber = /^\d{1,15}$/.test(key) ? await keptCaseloads(db, viewer, { id: Number(key) }) : [];
  // While names are hidden, what a caseload is called is no way to it.
  const found =
    byNumber.length > 0 || viewer.standInKey !== null ? byNumber : await keptCaseloads(db, viewer, { name: key });
  if (found.length === 0) throw new NotFound('No such caseload');
  return found[0];
}

async function ownCaseload(runtime: Runtime, viewer: Viewer, key: string): Promise<KeptCaseload> {
  const kept = await findCaseload(runtime, viewer, key);
  if (kept.owner_id !== (viewer.staffId || null)) throw new NotFound('No such caseload of yours');
  return kept;
}

/** Ids of all learners whom filters find. @throws InvalidInput, NotFound */
async function everyMatching(runtime: Runtime, viewer: Viewer, values: Values): Promise<number[]> {
  const query = readInput(LearnersQuery, values, runtime.zone);
  const view = await withReadings(runtime, await openPlainView(runtime, viewer, query, query.as_of));
  const { filter, sort } = await filterAsked(runtime, view, query);
  return matchingIds(runtime.db, view, filter, sort);
}

/** Whom a rule finds for the viewer; what it names that is gone is told instead. */
async function byRule(runtime: Runtime, viewer: Viewer, rule: Record<string, string> | null) {
  if (rule === null) return { ids: [], fault: null };
  try {
    return { ids: await everyMatching(runtime, viewer, rule), fault: null };
  } catch (error) {
    if (error instanceof NotFound)
      return { ids: [], fault: 'Its rule names a course, group or organisation that is gone.' };
    if (error instanceof InvalidInput) return { ids: [], fault: `Its rule no longer holds: ${error.message}.` };
    throw error;
  }
}

/** Who is in it as far as the viewer sees them: the same people whether or not names are hidden, which a rule may look for. */
async function resolve(runtime: Runtime, viewer: Viewer, { id, rule }: Pick<KeptCaseload, 'id' | 'rule'>) {
  const [found, hand] = await Promise.all([
    byRule(runtime, { ...viewer, standInKey: null }, rule),
    byHand(runtime.db, viewer, id),
  ]);
  const learners = new Set([...found.ids, ...hand.in]);
  for (const out of hand.out) learners.delete(out);
  return { learners, hand, fault: found.fault };
}

/** A name may hold a person's, which is not shown while names are hidden. */
const nameFor = ({ standInKey }: Viewer, { id, name }: Pick<KeptCaseload, 'id' | 'name'>) =>
  standInKey === null ? name : `Caseload ${id} ${HIDDEN_TEXT}`;

/** A caseload as the part that is looked at. @throws NotFound */
export async function caseloadInView(runtime: Runtime, viewer: Viewer, key: string): Promise<Caseload> {
  const kept = await findCaseload(runtime, viewer, key);
  const { learners } = await resolve(runtime, viewer, kept);
  return { id: kept.id, name: nameFor(viewer, kept), learners };
}

/** The viewer's own caseloads and those shared with them. */
export async function caseloadsOf(runtime: Runtime, viewer: Viewer): Promise<CaseloadShown[]> {
  const kept = await keptCaseloads(runtime.db, viewer);
  return Promise.all(
    kept.map(async (one) => {
      const { learners, hand, fault } = await resolve(runtime, viewer, one);
      const byHand = { in: hand.in.length, out: hand.out.length };
      return { ...show(viewer, one), learners: learners.size, byHand, fault };
    }),
  );
}

/** The names of one's own caseloads. */
export async function namesOfOwn({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<{ id: number; name: string }[]> {
  const kept = await keptCaseloads(db, viewer);
  return kept
    .filter(({ owner_id }) => owner_id === (viewer.staffId || null))
    .map((one) => ({ id: one.id, name: nameFor(viewer, one) }));
}

function show(viewer: Viewer, kept: KeptCaseload): Omit<CaseloadShown, 'learners' | 'byHand' | 'fault'> {
  const { id, owner, rule, shared } = kept;
  return {
    id,
    name: nameFor(viewer, kept),
    owner,
    isOwn: kept.owner_id === (viewer.staffId || null),
    rule: rule && viewer.standInKey !== null ? without(rule, 'q') : rule,
    shared,
  };
}

/** A caseload as a program gets it. */
export interface CaseloadAnswer {
  id: number;
  name: string;
  owner: string | null;
  /** Put in and left out by hand, by their ids. */
  learners: string[];
  left_out: string[];
  rule: Record<string, string> | null;
  shared_with: { id: number; name: string }[];
  /** How many are in it in all whom the viewer sees. */
  total: number;
  fault: string | null;
}

async function answer(runtime: Runtime, viewer: Viewer, kept: KeptCaseload): Promise<CaseloadAnswer> {
  const { learners, hand, fault } = await resolve(runtime, viewer, kept);
  const view = await withReadings(runtime, await openPlainView(runtime, viewer));
  const rows = await learnersById(runtime.db, view, [...hand.in, ...hand.out]);
  const idOf = new Map(rows.map((row) => [row.id, row.learner_id]));
  const named = (ids: readonly number[]) => ids.flatMap((id) => idOf.get(id) ?? []);
  const { id, name, owner, rule, shared } = show(viewer, kept);
  return {
    id,
    name,
    owner,
    learners: named(hand.in),
    left_out: named(hand.out),
    rule,
    shared_with: shared,
    total: learners.size,
    fault,
  };
}

export async function caseloadAnswers(runtime: Runtime, viewer: Viewer): Promise<CaseloadAnswer[]> {
  const kept = await keptCaseloads(runtime.db, viewer);
  return Promise.all(kept.map((one) => answer(runtime, viewer, one)));
}

/** @throws NotFound */
export async function caseloadAnswer(runtime: Runtime, viewer: Viewer, id: string): Promise<CaseloadAnswer> {
  return answer(runtime, viewer, await findCaseload(runtime, viewer, id));
}

interface ReadCaseload {
  name: string;
  rule: Record<string, string> | null;
  in: number[];
  out: number[];
  /** Null where nothing was said of it. */
  shared: number[] | null;
}

/** @throws InvalidInput naming every field that is wrong */
async function readCaseload(runtime: Runtime, viewer: Viewer, values: Values): Promise<ReadCaseload> {
  const input = readInput(CaseloadInput, values);
  const faults: FieldFault[] = [];
  const rule = await readRule(runtime, viewer, values.rule, faults);
  const people = async (field: 'learners' | 'left_out') => {
    const ids = (input[field] ?? []).map((id) => (typeof id === 'number' ? String(id) : id));
    if (!ids.every((id): id is string => typeof id === 'string' && id !== '' && id.length <= 200)) {
      faults.push({ field, message: 'is not a list of learners’ ids' });
      return [];
    }
    const numbers = await findLearners(runtime.db, viewer, ids);
    const missing = ids.find((id) => !numbers.has(id));
    if (missing !== undefined) faults.push({ field, message: `names somebody who is not there: ${missing}` });
    return [...new Set(ids.flatMap((id) => numbers.get(id) ?? []))];
  };
  const [put, out] = [await people('learners'), await people('left_out')];
  if (put.some((id) => out.includes(id))) faults.push({ field: 'left_out', message: 'names somebody who is put in' });
  const shared = input.shared_with === undefined ? null : await readShared(runtime, viewer, input.shared_with, faults);
  if (faults.length > 0) throw new InvalidInput(faults);
  return { name: input.name, rule, in: put, out, shared };
}

async function readRule(
  runtime: Runtime,
  viewer: Viewer,
  sent: unknown,
  faults: FieldFault[],
): Promise<Record<string, string> | null> {
  if (sent === undefined || sent === null || sent === '') return null;
  const read = readFilter(sent);
  const field = (name?: string) => (name === undefined ? 'rule' : `rule.${name}`);
  if ('fault' in read) {
    faults.push({ field: field(read.fault.name), message: read.fault.message });
    return null;
  }
  // What the bar says is a filter like the others.
  const rule = {
    ...segmentNames(read.filter.in),
    ...without(read.filter, 'in', 'limit', 'cursor', 'format', 'as_of', 'sort', 'columns', 'fold'),
  } as Record<string, string>;
  // One caseload within another could go round in circles.
  if (rule.caseload !== undefined)
    faults.push({ field: 'rule.caseload', message: 'is a caseload: a rule is of filters' });
  else
    try {
      await everyMatching(runtime, viewer, rule);
    } catch (error) {
      if (error instanceof NotFound)
        faults.push({ field: 'rule', message: 'names a course, group or organisation that is not there' });
      else if (error instanceof InvalidInput)
        faults.push(...error.errors.map((one) => ({ ...one, field: field(one.field) })));
      else throw error;
    }
  return rule;
}

/** Colleagues by their numbers, or as they were listed. */
async function readShared(runtime: Runtime, viewer: Viewer, sent: readonly unknown[], faults: FieldFault[]) {
  const known = new Set((await colleaguesFor(runtime, viewer)).map(({ id }) => id));
  const ids = sent.map((one) => (typeof one === 'object' && one !== null && 'id' in one ? one.id : one));
  if (!ids.every((id): id is number => typeof id === 'number' && known.has(id)))
    faults.push({ field: 'shared_with', message: 'names somebody who is no colleague of yours' });
  return [...new Set(ids as number[])];
}

/** Colleagues with whom a caseload may be shared. A partner's contact neither gives nor gets. */
export async function colleaguesFor({ db }: Pick<Runtime, 'db'>, viewer: Viewer) {
  return isStaffMember(viewer) ? colleaguesToShareWith(db, viewer) : [];
}

/** Makes a caseload of the viewer's own. Returns its number. @throws InvalidInput */
export async function makeCaseload(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  const { name, rule, shared, ...hand } = await readCaseload(runtime, viewer, values);
  const at = runtime.clock.now();
  return writing(runtime.db, async (trx) => {
    const id = await addCaseload(trx, viewer.staffId, { name, rule, at });
    await putByHand(trx, viewer, id, hand);
    await shareCaseload(trx, id, shared ?? []);
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'made a caseload', subject: name });
    return id;
  });
}

/** Changes a caseload of the viewer's own in whole; with whom it is shared only where it is said. @throws InvalidInput, NotFound */
export async function saveCaseload(runtime: Runtime, viewer: Viewer, id: string, values: Values): Promise<void> {
  const kept = await ownCaseload(runtime, viewer, id);
  // What is shown of it then is not what it is: its name and what is searched for would be lost.
  if (viewer.standInKey !== null)
    throw new InvalidInput([{ field: 'name', message: 'cannot be saved while names are hidden' }]);
  const { name, rule, shared, ...hand } = await readCaseload(runtime, viewer, values);
  const at = runtime.clock.now();
  await writing(runtime.db, async (trx) => {
    await changeCaseload(trx, kept.id, { name, rule, at });
    await putByHand(trx, viewer, kept.id, hand);
    if (shared !== null) await shareCaseload(trx, kept.id, shared);
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'changed a caseload', subject: name });
  });
}

/** Puts learners in a caseload of the viewer's own, leaves them out, or lets its rule alone say. @throws NotFound */
export async function putInCaseload(
  runtime: Runtime,
  viewer: Viewer,
  id: number,
  learnerIds: readonly number[],
  how: 'in' | 'out' | 'rule',
): Promise<void> {
  const kept = await ownCaseload(runtime, viewer, String(id));
  const mine = await keepInScope(runtime.db, viewer, learnerIds);
  if (mine.length === 0) throw new NotFound('Nobody of them is in your sight.');
  await writing(runtime.db, async (trx) => {
    if (how === 'rule' || (how === 'out' && kept.rule === null)) await removeByHand(trx, kept.id, mine);
    else await addByHand(trx, kept.id, mine, how === 'out');
  });
}

class PutInput {
  @Matches(/^(new|\d{1,15})$/, { message: 'is not one of yours' }) into!: string;
  @IsOptional() @IsIn(['in', 'out'], { message: 'is not in or out' }) how?: 'in' | 'out';
  @ValidateIf((input: PutInput) => input.into === 'new')
  @MaxLength(80, { message: 'is longer than 80 characters' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty({ message: 'is missing' })
  name!: string;
}

/** The same as a form asks for it, where a new caseload may be made of them. @throws InvalidInput, NotFound */
export async function putByForm(
  runtime: Runtime,
  viewer: Viewer,
  learnerIds: readonly number[],
  values: Values,
): Promise<void> {
  const { into, name, how = 'in' } = readInput(PutInput, values);
  if (into !== 'new') return putInCaseload(runtime, viewer, Number(into), learnerIds, how);
  if ((await keepInScope(runtime.db, viewer, learnerIds)).length === 0)
    throw new NotFound('Nobody of them is in your sight.');
  await putInCaseload(runtime, viewer, await makeCaseload(runtime, viewer, { name }), learnerIds, 'in');
}

/** Gives a caseload of the viewer's own another name. @throws InvalidInput, NotFound */
export async function renameCaseload(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const kept = await ownCaseload(runtime, viewer, String(id));
  if (viewer.standInKey !== null)
    throw new InvalidInput([{ field: 'name', message: 'cannot be saved while names are hidden' }]);
  const { name } = readInput(CaseloadInput, { name: values.name });
  await writing(runtime.db, (trx) => changeCaseload(trx, kept.id, { name, rule: kept.rule, at: runtime.clock.now() }));
}

/** Shares a caseload of the viewer's own with these colleagues and nobody else. @throws InvalidInput, NotFound */
export async function shareOwnCaseload(
  runtime: Runtime,
  viewer: Viewer,
  id: number,
  staff: readonly unknown[],
): Promise<void> {
  const kept = await ownCaseload(runtime, viewer, String(id));
  const faults: FieldFault[] = [];
  const shared = await readShared(runtime, viewer, staff, faults);
  if (faults.length > 0) throw new InvalidInput(faults);
  await writing(runtime.db, (trx) => shareCaseload(trx, kept.id, shared));
}

/** Takes a caseload of the viewer's own away: its learners stay as they are. @throws NotFound */
export async function dropCaseload(runtime: Runtime, viewer: Viewer, id: string): Promise<void> {
  const kept = await ownCaseload(runtime, viewer, id);
  const at = runtime.clock.now();
  await writing(runtime.db, async (trx) => {
    await removeCaseload(trx, kept.id);
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'took a caseload away', subject: kept.name });
  });
}
