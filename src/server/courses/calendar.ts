/** When people work and when courses rest: what is counted, and what is not. */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { USUAL_WORKING_HOURS, readWorkingHours, sayWorkingHours, type WorkingHours } from '@/core/access/when';
import { sayDay } from '@/core/time/words';
import { addAudit } from '@/data/audit';
import { addBreak, listBreaks, deleteBreak, type BreakRow } from '@/data/courses/breaks';
import { writing } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { readSetting, writeSetting } from '@/data/settings';
import { OF_COURSE, noteStaleIn } from '@/data/drift/stale';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

type Parts = Pick<Runtime, 'db' | 'clock' | 'zone'>;

const missing = { message: 'is missing' };
/** A break is days within a course, not years. */
const LONGEST_BREAK = 366;

export class BreakInput {
  @IsNotEmpty(missing) @MaxLength(200, { message: 'is longer than 200 characters' }) course!: string;
  @IsNotEmpty(missing) @AsDay() from!: number;
  @IsNotEmpty(missing) @AsDay() to!: number;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) reason?: string;
}

export class HoursInput {
  @IsNotEmpty(missing) @MaxLength(100, { message: 'is longer than 100 characters' }) hours!: string;
}

/** Days on which a course rests: they are not counted as quiet. @throws InvalidInput, NotFound */
export async function enterBreak({ db, clock }: Parts, viewer: Viewer, values: Values) {
  requireLead(viewer);
  const { course, from: first, to: last, reason = 'break' } = readInput(BreakInput, values);
  if (last < first) throw new InvalidInput([{ field: 'to', message: 'lies before from' }]);
  if (last - first > LONGEST_BREAK)
    throw new InvalidInput([{ field: 'to', message: 'lies more than a year after from' }]);
  await writing(db, async (trx) => {
    const courseId = await addBreak(trx, course, first, last, reason);
    if (courseId === null)
      throw new InvalidInput([{ field: 'course', message: `is not known: there is no course ${course}` }]);
    await noteStaleIn(trx, OF_COURSE, { courseId, fromDay: first });
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      course_id: courseId,
      what: 'added a break',
      subject: `${course}: ${sayDay(first)} to ${sayDay(last)}, ${reason}`,
    });
  });
}

/** Takes a break away: its days count again. @throws NotFound */
export async function removeBreak({ db, clock }: Parts, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const gone = await deleteBreak(trx, id);
    if (!gone) throw new NotFound('No such break');
    await noteStaleIn(trx, OF_COURSE, { courseId: gone.course_id, fromDay: gone.from_day });
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      course_id: gone.course_id,
      what: 'took a break away',
      subject: `${gone.course}: ${sayDay(gone.from_day)} to ${sayDay(gone.to_day)}, ${gone.reason}`,
    });
  });
}

/** Every break, the latest first. @throws NotFound */
export async function breaks({ db }: Parts, viewer: Viewer): Promise<BreakRow[]> {
  requireLead(viewer);
  return listBreaks(db);
}

/** When people of the programme work. */
export async function workingHours({ db }: Pick<Runtime, 'db'>): Promise<WorkingHours> {
  return readWorkingHours((await readSetting(db, 'working_hours')) ?? '') ?? USUAL_WORKING_HOURS;
}

/** Says when people of the programme work, such as "mon-fri 08:00-17:00". @throws InvalidInput, NotFound */
export async function setWorkingHours({ db, clock }: Parts, viewer: Viewer, values: Values) {
  requireLead(viewer);
  const { hours: text } = readInput(HoursInput, values);
  const hours = readWorkingHours(text);
  if (!hours) throw new InvalidInput([{ field: 'hours', message: 'are none: write them as mon-fri 08:00-17:00' }]);
  await writing(db, async (trx) => {
    const before = sayWorkingHours(await workingHours({ db: trx }));
    await writeSetting(trx, 'working_hours', text);
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      what: 'set the working hours',
      subject: sayWorkingHours(hours),
      changes: { hours: [before, sayWorkingHours(hours)] },
    });
  });
  return hours;
}
