/** Flares: a call to everybody around a learner, with its reason, that each has to mark as seen; ended with what came of it. */
import { IsIn, IsNotEmpty, IsOptional, IsString, MaxLength } from 'class-validator';
import { isStaffMember } from '@/core/staff/rights';
import { groupBy } from '@/core/group-by';
import { addWorkingDays } from '@/core/time/working-days';
import { sayInstant, sayList } from '@/core/time/words';
import { DAY, dayOf, startOfDay } from '@/core/time/zone';
import {
  FLARE_STATES,
  addFlare,
  callsOf,
  countUnseenFlares,
  endFlare as endStored,
  findFlares,
  flaresToAskAgain,
  noteAskedAgain,
  noteSeen,
  notSeenBy,
  type FlareRow,
  type FlareState,
} from '@/data/contact/flares';
import { writing, type Db } from '@/data/db';
import type { StaffInCrew } from '@/data/people/crew';
import { crewsWhoSee, whoSees } from '../people/crew';
import { findLearner, keepInScope, namesOf } from '@/data/people/learners';
import { addSendings } from '@/data/reports/schedules';
import type { Viewer } from '@/data/scope';
import { readStaffSetting, writeStaffSetting } from '@/data/settings';
import { staffById } from '@/data/staff/staff';
import { fullName } from '@/core/people/name';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { limitOf, placeOf, writeCursor } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { isoOrNull } from '../request/values';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';

/** Whoever was called and has not seen it is asked again after so many working days. */
const ASKED_AGAIN_AFTER = 2;

const missing = { message: 'is missing' };

export class FlareInput {
  /** Colleagues of the crew whom it calls; all of them where it is left out. */
  @IsOptional()
  to?: string[];

  @MaxLength(1000, { message: 'is longer than 1,000 characters' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty(missing)
  reason!: string;
}

class FlareOfInput extends FlareInput {
  @MaxLength(200, { message: 'is too long' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty(missing)
  learner_id!: string;
}

export class FlareEndInput {
  @MaxLength(1000, { message: 'is longer than 1,000 characters' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty(missing)
  outcome!: string;
}

/** A flare as it is shown. */
export interface FlareShown extends FlareRow {
  state: FlareState;
  seen: { name: string; at: number }[];
  /** Who has yet to see it, and still sees the learner. */
  notSeen: string[];
  /** How often those were asked, at most. */
  asked: number;
  /** Does it call the viewer, who has not seen it? */
  isMine: boolean;
}

async function show({ db }: Runtime, viewer: Viewer, rows: readonly FlareRow[]): Promise<FlareShown[]> {
  const calls = await callsOf(
    db,
    viewer,
    rows.map(({ id }) => id),
  );
  const open = calls.filter(({ seen_at, ended_at }) => seen_at === null && ended_at === null);
  const seeing = await whoSees(
    db,
    open.map(({ staff_id }) => staff_id),
    rows.map(({ person }) => person),
  );
  const ofFlare = groupBy(calls, ({ flare_id }) => flare_id);
  return rows.map((row): FlareShown => {
    const own = ofFlare.get(row.id) ?? [];
    const waiting = own.filter((one) => open.includes(one) && seeing.get(one.staff_id)?.has(row.person));
    return {
      ...row,
      state: row.ended_at === null ? 'open' : 'ended',
      seen: own
        .flatMap(({ name, seen_at }) => (seen_at === null ? [] : [{ name, at: seen_at }]))
        .sort((a, b) => a.at - b.at),
      notSeen: waiting.map(({ name }) => name),
      asked: Math.max(0, ...waiting.map(({ asked }) => asked)),
      isMine: row.ended_at === null && waiting.some(({ staff_id }) => staff_id === viewer.staffId),
    };
  });
}

/**
 * Calls everybody around a learner, or some of them.
 *
 * @param to colleagues of the learner's crew, by number or e-mail address; all of them where it is left out
 * @throws InvalidInput where nobody but oneself would see it, NotFound
 */
async function raise(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: number,
  reason: string,
  to?: unknown,
): Promise<number> {
  const { db, clock } = runtime;
  if (!isStaffMember(viewer)) throw new NotFound();
  const whole = { ...viewer, standInKey: null };
  // Whoever is around them, also where the caller does not see; names are the caller's own reading.
  const around = await crewsWhoSee(db, { ...SYSTEM_VIEWER, staffId: viewer.staffId }, [learnerId]);
  const called = to === undefined || to === null ? around : chosen(around, to);
  if (called.length === 0)
    throw new InvalidInput([
      { field: 'learner_id', message: 'has nobody around them but you: nobody would see it. Call or write yourself.' },
    ]);
  const [person] = await namesOf(db, whole, [learnerId]);
  const at = clock.now();
  const ids = called.map(({ id }) => id);
  return writing(db, async (trx) => {
    const id = await addFlare(trx, { learner_id: learnerId, staff_id: viewer.staffId || null, at, reason }, ids);
    await mail(runtime, trx, { id, by: viewer.staffId || null, name: fullName(person), reason, at }, ids, false);
    return id;
  });
}

/** Those of a crew whom a list of numbers or addresses names. @throws InvalidInput */
function chosen(around: readonly StaffInCrew[], to: unknown): StaffInCrew[] {
  if (!Array.isArray(to) || to.length === 0 || to.length > 200)
    throw new InvalidInput([{ field: 'to', message: 'is not a list of colleagues' }]);
  const names = new Set(to.map((one: unknown) => String(one).trim().toLowerCase()));
  const known = around.filter(({ id, email }) => names.has(String(id)) || names.has(email.toLowerCase()));
  const count = known.reduce(
    (sum, { id, email }) => sum + Number(names.has(String(id))) + Number(names.has(email.toLowerCase())),
    0,
  );
  if (count < names.size)
    throw new InvalidInput([{ field: 'to', message: 'names somebody who is not around this learner' }]);
  return known;
}

interface FlareMail {
  id: number;
  by: number | null;
  name: string;
  reason: string;
  at: number;
}

const MAIL = 'flare_mail';

/** Does somebody want flares by mail as well? */
export async function hasFlareMail({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<boolean> {
  return (await readStaffSetting(db, viewer.staffId, MAIL)) === 'on';
}

/** Switches flares by mail on or off for oneself. */
export async function setFlareMail({ db }: Runtime, viewer: Viewer, on: boolean): Promise<void> {
  await writeStaffSetting(db, viewer.staffId, MAIL, on ? 'on' : 'off');
}

/** Puts a mail in the queue for each who wants it. */
async function mail(
  { zone, clock, settings }: Runtime,
  trx: Db,
  { by, name, reason, at }: FlareMail,
  staffIds: readonly number[],
  isAgain: boolean,
): Promise<void> {
  const now = clock.now();
  const wanting: number[] = [];
  for (const id of staffIds) if ((await readStaffSetting(trx, id, MAIL)) === 'on') wanting.push(id);
  const sender = by === null ? null : await staffById(trx, by);
  const who = sender ? fullName(sender) : 'Lee Shore';
  const where = settings.url
    ? `Mark it as seen: ${settings.url}/flares`
    : 'Mark it as seen in Lee Shore, under Flares.';
  const again = isAgain ? 'You have not marked it as seen yet. ' : '';
  await addSendings(
    trx,
    wanting.map((id) => ({
      schedule_id: null,
      name: 'Flare',
      by_id: sender && sender.ended_at === null ? sender.id : id,
      to_id: id,
      due_at: now,
      at: now,
      subject: `${isAgain ? 'Still open: flare' : 'Flare'} for ${name}`.slice(0, 200),
      body: `${who} calls everybody around ${name}, ${sayInstant(at, zone, now)}:\n\n${reason}\n\n${again}${where}`,
      run_id: null,
    })),
  );
}

/** Raises a flare as a program asks for it. Returns its number. @throws InvalidInput, NotFound */
export async function makeFlare(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  const { learner_id, reason, to } = readInput(FlareOfInput, values);
  const id = await findLearner(runtime.db, viewer, learner_id);
  if (id === null) throw new InvalidInput([{ field: 'learner_id', message: 'is nobody whom you see' }]);
  return raise(runtime, viewer, id, reason, to);
}

/** The same from a learner's page. @throws InvalidInput, NotFound */
export async function raiseFlare(runtime: Runtime, viewer: Viewer, learnerId: number, values: Values): Promise<number> {
  const { reason, to } = readInput(FlareInput, values);
  if ((await keepInScope(runtime.db, viewer, [learnerId])).length === 0) throw new NotFound('No such learner');
  return raise(runtime, viewer, learnerId, reason, to);
}

async function flareNumbered({ db }: Runtime, viewer: Viewer, id: number): Promise<FlareRow> {
  const search = { id: Number.isInteger(id) ? id : -1, limit: 1 };
  const [row] = (await findFlares(db, { viewer, segment: {} }, search)).rows;
  if (!row) throw new NotFound('No such flare');
  return row;
}

/** A flare in scope. @throws NotFound */
export async function flareShown(runtime: Runtime, viewer: Viewer, id: number): Promise<FlareShown> {
  return (await show(runtime, viewer, [await flareNumbered(runtime, viewer, id)]))[0];
}

/** Notes that the viewer has seen a flare. @throws NotFound */
export async function seeFlare(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  await flareNumbered(runtime, viewer, id);
  // Nobody stands behind a token of the installation itself.
  if (viewer.staffId === 0) return;
  await writing(runtime.db, (trx) => noteSeen(trx, id, viewer.staffId, runtime.clock.now()));
}

/** Ends a flare with what came of it. @throws InvalidInput where it has ended, NotFound */
export async function endFlare(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const { outcome } = readInput(FlareEndInput, values);
  await flareNumbered(runtime, viewer, id);
  const at = runtime.clock.now();
  const by = viewer.staffId || null;
  await writing(runtime.db, async (trx) => {
    if (!(await endStored(trx, id, { at, by, outcome })))
      throw new InvalidInput([{ field: 'outcome', message: 'comes too late: somebody has ended this flare already' }]);
  });
}

/** Open flares that wait for the viewer to see them. */
export async function unseenFlares({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<number> {
  return isStaffMember(viewer) ? countUnseenFlares(db, viewer) : 0;
}

/** Asks again whoever has not seen an open flare for two working days. Returns how many flares. */
export async function askFlaresAgain(runtime: Runtime): Promise<number> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  let asked = 0;
  for (const flare of await flaresToAskAgain(db, now - ASKED_AGAIN_AFTER * DAY + 2 * 3_600_000)) {
    const day = dayOf(flare.asked_at, zone);
    const due = startOfDay(addWorkingDays(day, ASKED_AGAIN_AFTER), zone) + (flare.asked_at - startOfDay(day, zone));
    if (now < due) continue;
    const waiting = await notSeenBy(db, flare.id);
    const sees = await whoSees(db, waiting, [flare.learner_id]);
    const seeing = waiting.filter((id) => sees.get(id)?.has(flare.learner_id));
    const [person] = await namesOf(db, SYSTEM_VIEWER, [flare.learner_id]);
    await writing(db, async (trx) => {
      if (!(await noteAskedAgain(trx, flare, seeing, now))) return;
      const of = {
        id: flare.id,
        by: flare.staff_id,
        name: person ? fullName(person) : 'a learner',
        reason: flare.reason,
      };
      await mail(runtime, trx, { ...of, at: flare.asked_at }, seeing, true);
      asked += 1;
    });
  }
  return asked;
}

/** Flares of one learner that the viewer may see, newest first. */
export async function flaresOfLearner(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: number,
  page: { until: number; limit: number },
): Promise<FlareShown[]> {
  const { rows } = await findFlares(runtime.db, { viewer, segment: {} }, { learnerId, ...page });
  return show(runtime, viewer, rows);
}

/** Who has seen a flare, and who has not. @example 'seen by Jory Kestle, not by Mair Tolland' */
export function sayFlare({ seen, notSeen, state }: FlareShown): string {
  const by = seen.length === 0 ? 'seen by nobody yet' : `seen by ${sayList(seen.map(({ name }) => name))}`;
  return state === 'ended' || notSeen.length === 0 ? by : `${by}, not by ${sayList(notSeen)}`;
}

class FlaresQuery extends SegmentQuery {
  @Filter({
    help: FLARE_STATES.join(', '),
    says: (state) => (state === 'open' ? 'Open' : 'Ended'),
    control: {
      as: 'choice',
      label: 'State',
      choices: [
        { value: 'open', label: 'open' },
        { value: 'ended', label: 'ended' },
      ],
    },
  })
  @IsOptional()
  @IsIn(FLARE_STATES, { message: `is not one of ${FLARE_STATES.join(', ')}` })
  state?: FlareState;

  @Filter({ help: 'a learner, by their id', says: (id) => `Learner ${id}` })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;
}

/** Newest first. @throws InvalidInput, NotFound */
export async function flares(runtime: Runtime, viewer: Viewer, values: Values) {
  const { db, zone } = runtime;
  const query = readInput(FlaresQuery, values, zone);
  const { course, group, organisation, caseload, state } = query;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload });
  const learnerId = query.learner === undefined ? undefined : await findLearner(db, viewer, query.learner);
  if (learnerId === null) throw new NotFound('No such learner');
  const found = await findFlares(db, view, { state, learnerId, limit: limitOf(query), after: placeOf(query) });
  const last = found.rows.at(-1);
  return {
    query,
    view,
    rows: await show(runtime, viewer, found.rows),
    total: found.total,
    next: found.goesOn && last ? writeCursor([last.at, last.id]) : null,
    now: view.now,
    zone,
  };
}

export const FLARES = {
  name: 'flares',
  path: '/flares',
  query: FlaresQuery,
  columns: {
    id: { title: 'Flare', isKey: true, figures: { id: (row) => row.id } },
    of: { title: 'Learner', figures: { learner_id: (row) => row.learner_id, name: (row) => row.name } },
    reason: {
      title: 'Reason',
      figures: { reason: (row) => row.reason, by: (row) => row.by, at: (row) => isoOrNull(row.at) },
    },
    seen: {
      title: 'Seen',
      figures: {
        seen: (row) => row.seen.map(({ name, at }) => ({ name, at: isoOrNull(at) })),
        not_seen: (row) => row.notSeen,
        asked: (row) => row.asked,
      },
    },
    state: {
      title: 'State',
      figures: {
        state: (row) => row.state,
        outcome: (row) => row.outcome,
        ended_at: (row) => isoOrNull(row.ended_at),
        ended_by: (row) => row.ended_by,
      },
    },
  },
  read: flares,
} satisfies List<FlareShown>;
