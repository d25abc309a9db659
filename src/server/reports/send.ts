/** Sending what is sent by itself: made in the scope of whoever set it up, once for each time it was due, and on record. */
import { randomUUID } from 'node:crypto';
import { nextSending } from '@/core/reports/schedule';
import { sayInstant } from '@/core/time/words';
import { HOUR, MINUTE } from '@/core/time/zone';
import {
  addSendings,
  dueSchedules,
  moveOn,
  noteSending,
  runningSchedules,
  stopSchedule,
  waitingSendings,
  type NewSending,
  type Schedule,
  type WaitingSending,
} from '@/data/reports/schedules';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import type { Mailer } from '../contact/mailer';
import { delayAfter } from '../contact/outbox';
import { FILE_TYPES } from '../request/exports';
import { InvalidInput, NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import { openKept } from './kept';
import { mondayLetter } from './monday-letter';
import { fileName } from '../request/file-name';
import { makeNow, readRun } from './runs';

/** What is this much later than it was due says so. */
const LATE = HOUR;
/** Bytes of a file that is mailed at most. */
const LARGEST = 10_000_000;
const MOST_TRIES = 40;
/** While one is being sent, nobody else tries, in ms. */
const BEING_SENT = 10 * MINUTE;

/** It cannot be sent any more, and why. */
class Stopped extends Error {}

/** Makes what is due and puts it in the queue of mails. Returns how many schedules were due. */
export async function makeDue(runtime: Runtime, owner: string): Promise<number> {
  const { db, clock, zone, log } = runtime;
  const now = clock.now();
  // The clock was ahead when these were worked out.
  for (const one of await runningSchedules(db)) {
    const next = nextSending(one.rhythm, now, zone);
    if (one.next_at > next) await moveOn(db, one, next);
  }
  const due = await dueSchedules(db, now);
  let trouble: unknown = null;
  for (const schedule of due) {
    try {
      await makeOne(runtime, schedule, owner);
    } catch (error) {
      // One that fails holds up no other; it is tried again.
      if (!(error instanceof Stopped)) {
        trouble ??= error;
        continue;
      }
      log.warn({ schedule: schedule.id }, 'a report that is sent by itself has stopped');
      await stop(runtime, schedule, error.message);
    }
  }
  if (trouble !== null) throw trouble;
  return due.length;
}

/** Whoever set it up, as they are now. @throws Stopped where they have left or see nobody any more */
async function setUpBy({ db }: Runtime, { staff_id }: Schedule): Promise<Viewer> {
  const staff = await staffById(db, staff_id);
  if (!staff || staff.ended_at !== null) throw new Stopped('Whoever set it up has left.');
  const viewer = await viewerOf(db, staff);
  const parts = [viewer.courses, viewer.groups, viewer.organisations, viewer.learners];
  if (!viewer.all && parts.every(({ length }) => length === 0))
    throw new Stopped('Whoever set it up sees no learners any more.');
  return viewer;
}

async function makeOne(runtime: Runtime, schedule: Schedule, owner: string): Promise<void> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const viewer = await setUpBy(runtime, schedule);
  const to = schedule.to.filter(({ ended_at }) => ended_at === null);
  if (to.length === 0) throw new Stopped('Everybody it was sent to has left.');
  const mail =
    schedule.kind === 'monday_letter' ? await letter(runtime, viewer) : await report(runtime, viewer, schedule, owner);
  const late =
    now - schedule.next_at < LATE
      ? ''
      : `This comes late: it was due ${sayInstant(schedule.next_at, zone, now)}, and Lee Shore was not running then.\n\n`;
  const sendings = to.map(({ id }): NewSending => ({
    schedule_id: schedule.id,
    name: mail.name,
    by_id: viewer.staffId,
    to_id: id,
    due_at: schedule.next_at,
    at: now,
    subject: mail.subject,
    body: late + mail.body,
    run_id: mail.runId,
  }));
  await db.transaction(async (trx) => {
    // Another process may have made the same meanwhile: one of the two goes on.
    if (await moveOn(trx, schedule, nextSending(schedule.rhythm, now, zone))) await addSendings(trx, sendings);
  });
}

interface MadeMail {
  name: string;
  subject: string;
  body: string;
  runId: number | null;
}

async function letter(runtime: Runtime, viewer: Viewer): Promise<MadeMail> {
  return { name: 'Monday letter', runId: null, ...(await mondayLetter(runtime, viewer)) };
}

/** @throws Stopped where the report or what it is of is not theirs any more */
async function report(runtime: Runtime, viewer: Viewer, schedule: Schedule, owner: string): Promise<MadeMail> {
  const { settings } = runtime;
  const id = String(schedule.report_id);
  let opened: Awaited<ReturnType<typeof openKept>>;
  try {
    opened = await openKept(runtime, viewer, id);
  } catch (error) {
    if (error instanceof NotFound) throw new Stopped('The report is not theirs any more who set this up.');
    if (error instanceof InvalidInput)
      throw new Stopped(`What it is of is gone, or not theirs any more: ${error.message}.`);
    throw error;
  }
  const { shown, open } = opened;
  // What goes in somebody's scope is what they saw: whoever it is shared with could widen it, and be among its readers.
  if (shown.changedById !== viewer.staffId && (shown.changedAt ?? 0) > schedule.created_at)
    throw new Stopped(
      `${shown.changedBy ?? 'Somebody'} has changed the report since this was set up: look at it, and set it up anew.`,
    );
  const base = { name: shown.name, subject: shown.name };
  const gone = open.gone.length === 0 ? '' : `\n\nNo longer there, and left out: ${open.gone.join(', ')}.`;
  if (open.ids.length === 0)
    return { ...base, body: `There is nobody in “${shown.name}” this time.${gone}`, runId: null };
  if (schedule.format === 'link')
    return { ...base, body: `“${shown.name}” as it stands now:\n${settings.url}/reports/${id}${gone}`, runId: null };
  const runId = await makeNow(
    runtime,
    viewer,
    {
      reportId: schedule.report_id,
      name: shown.name,
      definition: open.definition,
      format: schedule.format,
      layout: schedule.layout,
      total: open.ids.length,
    },
    owner,
  );
  return { ...base, body: `“${shown.name}” comes with this mail.${gone}`, runId };
}

/** Stops a schedule, and says so to whoever set it up, if they are still there. */
async function stop({ db, clock }: Runtime, schedule: Schedule, why: string): Promise<void> {
  const now = clock.now();
  const name = schedule.name ?? 'Monday letter';
  const staff = await staffById(db, schedule.staff_id);
  await db.transaction(async (trx) => {
    await stopSchedule(trx, schedule.id, now, why);
    if (!staff || staff.ended_at !== null) return;
    await addSendings(trx, [
      {
        schedule_id: schedule.id,
        name,
        by_id: schedule.staff_id,
        to_id: schedule.staff_id,
        due_at: schedule.next_at,
        at: now,
        subject: `Not sent any more: ${name}`,
        body: `“${name}” is not sent any more. ${why}`,
        run_id: null,
      },
    ]);
  });
}

/** Sends the mails that wait. Returns how many were tried. */
export async function sendWaiting(runtime: Runtime, mailer: Mailer): Promise<number> {
  const { db, clock } = runtime;
  const waiting = await waitingSendings(db, clock.real());
  for (const sending of waiting) await sendOne(runtime, mailer, sending);
  return waiting.length;
}

const TOO_LARGE = 'The file is too large to be mailed: it stands under Reports in Lee Shore for 14 days.';

async function sendOne(runtime: Runtime, mailer: Mailer, sending: WaitingSending): Promise<void> {
  const { db, clock, settings, log } = runtime;
  const { id, run_id: runId } = sending;
  const tries = sending.tries + 1;
  await noteSending(db, id, { tries, next_try_at: clock.real() + BEING_SENT });
  const file = runId === null ? null : await attachmentOf(runtime, sending, runId);
  const isTooLarge = runId !== null && file === null;
  try {
    await mailer(
      {
        from: { name: sending.by_name, address: sending.by_email },
        to: { name: sending.to_name, address: sending.to_email },
        subject: sending.subject,
        text: isTooLarge ? `${sending.body}\n\n${TOO_LARGE}` : sending.body,
        attachments: file ? [file] : [],
        messageId: `${randomUUID()}@${settings.domain ?? sending.by_email.split('@').at(-1)}`,
      },
      async () => undefined,
    );
  } catch (error) {
    const { message: says, status = 0 } = error as Error & { status?: number };
    log.warn({ sending: id, status }, 'a report was not sent');
    // Too large for the server (RFC 5321, 4.2.3; RFC 1870): it goes without its file, which stays where it is.
    if (file && [552, 523, 534].includes(status)) {
      await noteSending(db, id, { run_id: null, body: `${sending.body}\n\n${TOO_LARGE}`, next_try_at: 0 });
      return;
    }
    const isOver = status >= 500 || tries >= MOST_TRIES;
    await noteSending(db, id, {
      state: isOver ? 'failed' : 'waiting',
      error: isOver ? `The mail server refused it: ${says}` : `Not sent yet: ${says}`,
      next_try_at: clock.real() + delayAfter(tries),
      at: clock.now(),
    });
    return;
  }
  await noteSending(db, id, { state: 'sent', error: isTooLarge ? TOO_LARGE : null, at: clock.now() });
}

/** The file that goes with a mail; null for one that is gone or too large. */
async function attachmentOf(runtime: Runtime, sending: WaitingSending, runId: number) {
  const content = await readRun(runtime, runId);
  if (!content || content.length > LARGEST) return null;
  const format = sending.run_format!;
  return { filename: `${fileName(sending.name)}.${format}`, content, contentType: FILE_TYPES[format] };
}
