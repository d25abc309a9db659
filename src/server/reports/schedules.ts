/** Reports that are sent by themselves: set up, listed, ended. */
import { ArrayMaxSize, ArrayMinSize, IsArray, IsIn, IsNotEmpty } from 'class-validator';
import { LAYOUTS, type Layout } from '@/core/reports/definition';
import { nextSending, sayRhythm, type Rhythm } from '@/core/reports/schedule';
import { isStaffMember } from '@/core/staff/rights';
import { addAudit } from '@/data/audit';
import {
  addSchedule,
  removeSchedule,
  schedulesOf,
  sendingsBy,
  type Schedule,
  type SendingShown,
} from '@/data/reports/schedules';
import type { Viewer } from '@/data/scope';
import { AsMinuteOfDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { colleaguesFor, reportOf } from './kept';

/** A file that goes with the mail, or a link to the report as whoever opens it may see it. */
const SENT_AS = ['csv', 'xlsx', 'pdf', 'link'] as const;
type SentAs = (typeof SENT_AS)[number];

const oneOf = (choices: readonly string[]) => ({ message: `is not one of ${choices.join(', ')}` });

class ScheduleInput {
  @IsIn(['week', 'month'], oneOf(['week', 'month'])) by!: Rhythm['by'];
  @ArrayMaxSize(31, { message: 'are too many' })
  @ArrayMinSize(1, { message: 'is missing: choose a day' })
  @IsArray({ message: 'is missing: choose a day' })
  on!: unknown[];
  @IsNotEmpty({ message: 'is missing' }) @AsMinuteOfDay() at!: number;
  @IsIn(SENT_AS, oneOf(SENT_AS)) format!: SentAs;
  @IsIn(LAYOUTS, oneOf(LAYOUTS)) layout!: Layout;
  @ArrayMaxSize(100, { message: 'are more than 100' })
  @ArrayMinSize(1, { message: 'is missing: choose who gets it' })
  @IsArray({ message: 'is missing: choose who gets it' })
  to!: unknown[];
}

/** The days of a rhythm as numbers. @throws InvalidInput */
function daysOf(by: Rhythm['by'], on: readonly unknown[]): number[] {
  const [first, last] = by === 'week' ? [0, 6] : [1, 31];
  const days = on.map(Number);
  if (!days.every((day) => Number.isInteger(day) && day >= first && day <= last))
    throw new InvalidInput([
      { field: 'on', message: by === 'week' ? 'is not a day of the week' : 'is not a day of the month' },
    ]);
  return [...new Set(days)].sort((a, b) => a - b);
}

/** Has a kept report sent by itself, in the viewer's name and scope. @throws InvalidInput, NotFound */
export async function scheduleReport(runtime: Runtime, viewer: Viewer, id: string, values: Values): Promise<number> {
  const { db, clock, zone, settings } = runtime;
  const report = await reportOf(runtime, viewer, id);
  if (report.isReady || !isStaffMember(viewer)) throw new NotFound('No such kept report');
  const input = readInput(ScheduleInput, values);
  const rhythm: Rhythm = { by: input.by, on: daysOf(input.by, input.on), minute: input.at };
  if (input.format === 'link' && settings.url === null)
    throw new InvalidInput([
      { field: 'format', message: 'cannot be a link: the operator has not said where Lee Shore is (LEESHORE_URL)' },
    ]);
  const people = [{ id: viewer.staffId }, ...(await colleaguesFor(runtime, viewer))];
  const to = [...new Set(input.to.map(Number))];
  if (!to.every((one) => people.some((person) => person.id === one)))
    throw new InvalidInput([{ field: 'to', message: 'names somebody who is no colleague of yours' }]);
  const readers = new Set([viewer.staffId, ...report.shared.map((one) => one.id)]);
  if (input.format === 'link' && !to.every((one) => readers.has(one)))
    throw new InvalidInput([{ field: 'to', message: 'names somebody who cannot open it: share the report first' }]);
  const now = clock.now();
  const schedule = {
    report_id: Number(id),
    kind: 'report' as const,
    staff_id: viewer.staffId,
    rhythm,
    format: input.format,
    layout: input.layout,
    next_at: nextSending(rhythm, now, zone),
    created_at: now,
  };
  return db.transaction(async (trx) => {
    const added = await addSchedule(trx, schedule, to);
    const what = { what: 'has a report sent', subject: `${report.name}: ${sayRhythm(rhythm)}` };
    await addAudit(trx, { at: now, staff_id: viewer.staffId, ...what });
    return added;
  });
}

/** Mondays at seven. */
const MONDAYS: Rhythm = { by: 'week', on: [0], minute: 7 * 60 };

/** Turns the viewer's Monday letter on or off. @throws NotFound for whoever is not on the staff */
export async function setMondayLetter(runtime: Runtime, viewer: Viewer, on: boolean): Promise<void> {
  const { db, clock, zone } = runtime;
  if (!isStaffMember(viewer)) throw new NotFound('No letter');
  const known = (await schedulesOf(db, viewer)).find(({ kind }) => kind === 'monday_letter');
  if (known) await removeSchedule(db, viewer.staffId, known.id);
  if (!on) return;
  const now = clock.now();
  await db.transaction((trx) =>
    addSchedule(
      trx,
      {
        report_id: null,
        kind: 'monday_letter',
        staff_id: viewer.staffId,
        rhythm: MONDAYS,
        format: 'link',
        layout: 'table',
        next_at: nextSending(MONDAYS, now, zone),
        created_at: now,
      },
      [viewer.staffId],
    ),
  );
}

/** Ends a schedule of the viewer's. @throws NotFound */
export async function endSchedule({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: number): Promise<void> {
  if (!(await removeSchedule(db, viewer.staffId, id))) throw new NotFound('No such sending of yours');
}

export interface SchedulesPage {
  schedules: Schedule[];
  hasLetter: boolean;
  sendings: SendingShown[];
  /** Is there a mail server? */
  sends: boolean;
}

const SHOWN = 20;

/** What the viewer has sent by itself, and what was sent. */
export async function schedulesPage({ db, settings }: Runtime, viewer: Viewer): Promise<SchedulesPage> {
  const [schedules, sendings] = await Promise.all([schedulesOf(db, viewer), sendingsBy(db, viewer, SHOWN)]);
  return {
    schedules: schedules.filter(({ kind }) => kind === 'report'),
    hasLetter: schedules.some(({ kind, stopped_at }) => kind === 'monday_letter' && stopped_at === null),
    sendings,
    sends: settings.smtpUrl !== null,
  };
}
