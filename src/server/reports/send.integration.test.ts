import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { openMailer, type Mailer } from '../contact/mailer';
import { promise } from '../contact/follow-ups';
import { recalculate } from '../drift/recalculate';
import { makeOwner } from '../owner';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { dropReport, makeReport, saveReport, shareWith } from './kept';
import { mondayLetter } from './monday-letter';
import { endSchedule, scheduleReport, schedulesPage, setMondayLetter } from './schedules';
import { makeDue, sendWaiting } from './send';

const PORT = 25_391;
let runtime: TestRuntime;
let inbox: Inbox;
let mailer: Mailer;
let mentor: Viewer;
let lead: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  await runtime.db('staff').update({ password_hash: 'x' });
  inbox = await openInbox(PORT);
  mailer = openMailer(`smtp://127.0.0.1:${PORT}`)!;
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(async () => {
  await inbox.close();
  await runtime.close();
});

const CHOSEN = { name: 'Mine', per: 'learner', columns: ['learner_id', 'name'], for: 'staff' };
const MONDAYS = { by: 'week', on: [0], at: '07:00', format: 'csv', layout: 'table' };

async function scheduled(values: object = {}, viewer = mentor): Promise<{ report: string; id: number }> {
  const report = String(await makeReport(runtime, viewer, CHOSEN));
  return { report, id: await scheduleReport(runtime, viewer, report, { ...MONDAYS, to: [viewer.staffId], ...values }) };
}

/** What goes at an instant. */
async function at(iso: string): Promise<void> {
  runtime.setNow(iso);
  await makeDue(runtime, makeOwner());
  await sendWaiting(runtime, mailer);
}

describe('a report that is sent by itself', () => {
  it('goes at its hour, once, with its file, to those chosen, and is on record', async () => {
    await scheduled({ to: [mentor.staffId, lead.staffId] });
    await at('2026-11-30T06:59:59Z');
    expect(inbox.mails).toHaveLength(0);
    await at('2026-11-30T07:00:00Z');
    await at('2026-11-30T07:00:01Z');
    expect(inbox.mails.map(({ to }) => to).sort()).toEqual(['lead@staff.example', 'mentor@staff.example']);
    const [mail] = inbox.mails;
    expect(mail).toMatchObject({ subject: 'Mine', from: '"Mair Tolland" <mentor@staff.example>' });
    expect(mail.attachments).toEqual([{ name: 'mine.csv', bytes: expect.any(Number) }]);
    expect(mail.attachments[0].bytes).toBeGreaterThan(40);
    const { schedules, sendings } = await schedulesPage(runtime, mentor);
    expect(new Date(schedules[0].next_at).toISOString()).toBe('2026-12-07T07:00:00.000Z');
    expect(sendings.map(({ state, to }) => `${to} ${state}`).sort()).toEqual(['Hesper Vane sent', 'Mair Tolland sent']);
  });

  it('is made by two processes and goes once', async () => {
    await scheduled();
    runtime.setNow('2026-11-30T07:00:00Z');
    await Promise.all([makeDue(runtime, makeOwner()), makeDue(runtime, makeOwner())]);
    await sendWaiting(runtime, mailer);
    expect(inbox.mails).toHaveLength(1);
  });

  it('missed while the machine was off, goes once, late, and says so', async () => {
    await scheduled();
    await at('2026-12-16T10:00:00Z');
    expect(inbox.mails).toHaveLength(1);
    expect(inbox.mails[0].text).toContain('This comes late: it was due Mon 30 Nov, 07:00');
    await at('2026-12-21T07:00:00Z');
    expect(inbox.mails).toHaveLength(2);
    expect(inbox.mails[1].text).not.toContain('late');
  });

  it('comes at its next day where the clock had been ahead', async () => {
    await scheduled();
    await at('2027-03-01T10:00:00Z');
    runtime.setNow('2026-11-24T09:10:00Z');
    await makeDue(runtime, makeOwner());
    const { schedules } = await schedulesPage(runtime, mentor);
    expect(new Date(schedules[0].next_at).toISOString()).toBe('2026-11-30T07:00:00.000Z');
  });

  it('stops and says so when whoever set it up lost what it is of, or left', async () => {
    await scheduled();
    await runtime.db('staff_scope').where('staff_id', mentor.staffId).delete();
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails).toMatchObject([{ subject: 'Not sent any more: Mine', attachments: [] }]);
    expect(inbox.mails[0].text).toContain('sees no learners any more');
    expect((await schedulesPage(runtime, mentor)).schedules[0].stopped_why).toContain('no learners');
    await at('2026-12-07T07:00:00Z');
    expect(inbox.mails).toHaveLength(1);
    const { report } = await scheduled({}, lead);
    await runtime.db('staff').where('id', lead.staffId).update({ ended_at: 1 });
    await at('2026-12-14T07:00:00Z');
    expect(inbox.mails).toHaveLength(1);
    expect((await schedulesPage(runtime, lead)).schedules[0].stopped_why).toContain('has left');
    expect(report).not.toBe('');
  });

  it('stops when the course it is of is gone from view, and ends with its report', async () => {
    const values = { ...CHOSEN, whose: { course: 'DRY' } };
    const report = String(await makeReport(runtime, mentor, values));
    await scheduleReport(runtime, mentor, report, { ...MONDAYS, to: [mentor.staffId] });
    await runtime.db('staff_scope').where('staff_id', mentor.staffId).delete();
    const net = await runtime.db('course').where('code', 'NET').first('id');
    await runtime.db('staff_scope').insert({ staff_id: mentor.staffId, kind: 'course', course_id: net!.id } as never);
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails[0].text).toContain('What it is of is gone, or not theirs any more');
    await dropReport(runtime, mentor, report);
    expect((await schedulesPage(runtime, mentor)).schedules).toEqual([]);
    // What was sent stays on record.
    expect((await schedulesPage(runtime, mentor)).sendings).toHaveLength(1);
  });

  it('stops when a colleague has changed what goes in somebody else’s scope, and goes on with one’s own change', async () => {
    const { report } = await scheduled({ to: [mentor.staffId] }, lead);
    await shareWith(runtime, lead, report, { staff: [mentor.staffId] });
    runtime.setNow('2026-11-25T09:00:00Z');
    await saveReport(runtime, lead, report, { ...CHOSEN, columns: ['learner_id'] });
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails).toHaveLength(1);
    // The mentor would be sent everybody of the lead's, with columns of the mentor's choice.
    runtime.setNow('2026-12-01T09:00:00Z');
    await saveReport(runtime, mentor, report, { ...CHOSEN, columns: ['learner_id', 'phone', 'drift'] });
    await at('2026-12-07T07:00:00Z');
    expect(inbox.mails.slice(1)).toMatchObject([{ to: 'lead@staff.example', subject: 'Not sent any more: Mine' }]);
    expect((await schedulesPage(runtime, lead)).schedules[0].stopped_why).toContain('Mair Tolland has changed');
  });

  it('holds up no other where it cannot be made, and is made once it can', async () => {
    const { id } = await scheduled({}, lead);
    await scheduled();
    runtime.setNow('2026-11-30T07:00:00Z');
    const noFolder = join(runtime.settings.dataDir, 'lee-shore.sqlite');
    const broken = { ...runtime, settings: { ...runtime.settings, dataDir: noFolder } };
    await expect(makeDue(broken, makeOwner())).rejects.toThrow();
    expect((await schedulesPage(runtime, lead)).schedules[0]).toMatchObject({ id, stopped_at: null });
    expect(await runtime.db('report_run')).toEqual([]);
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails).toHaveLength(2);
  });

  it('shows no name of staff and of no report while names are hidden', async () => {
    await scheduled({ to: [lead.staffId] });
    await at('2026-11-30T07:00:00Z');
    const shown = JSON.stringify(await schedulesPage(runtime, { ...mentor, standInKey: 'key' }));
    for (const name of ['Hesper', 'Vane', 'Mine']) expect(shown).not.toContain(name);
  });

  it('says that nobody is in it, and sends no file', async () => {
    const values = { ...CHOSEN, name: 'Nobody', whose: { filter: { q: 'nobody' } } };
    const report = String(await makeReport(runtime, mentor, values));
    await scheduleReport(runtime, mentor, report, { ...MONDAYS, to: [mentor.staffId] });
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails[0]).toMatchObject({ attachments: [] });
    expect(inbox.mails[0].text).toContain('There is nobody in “Nobody” this time');
  });

  it('goes without its file where the mail server finds it too large, and is tried again where it is silent', async () => {
    await scheduled();
    const sent: number[] = [];
    const fussy: Mailer = async ({ attachments }) => {
      if (sent.push(attachments?.length ?? 0) === 1) throw Object.assign(new Error('connection lost'), { status: 0 });
      if (attachments?.length) throw Object.assign(new Error('message too large'), { status: 552 });
    };
    runtime.setNow('2026-11-30T07:00:00Z');
    await makeDue(runtime, makeOwner());
    await sendWaiting(runtime, fussy);
    expect((await schedulesPage(runtime, mentor)).sendings[0]).toMatchObject({
      state: 'waiting',
      error: 'Not sent yet: connection lost',
    });
    expect(await sendWaiting(runtime, fussy)).toBe(0);
    runtime.passTime(60_000);
    await sendWaiting(runtime, fussy);
    await sendWaiting(runtime, fussy);
    expect(sent).toEqual([1, 1, 0]);
    expect((await schedulesPage(runtime, mentor)).sendings[0].state).toBe('sent');
  });

  it('is set up with what can be, by whom it may be', async () => {
    const report = String(await makeReport(runtime, mentor, CHOSEN));
    const set = (values: object, viewer = mentor) =>
      scheduleReport(runtime, viewer, report, { ...MONDAYS, to: [mentor.staffId], ...values });
    for (const [values, field] of [
      [{ on: [] }, 'on'],
      [{ on: [7] }, 'on'],
      [{ by: 'month', on: [0] }, 'on'],
      [{ by: 'year' }, 'by'],
      [{ at: 'soon' }, 'at'],
      [{ format: 'doc' }, 'format'],
      [{ format: 'link' }, 'format'],
      [{ to: [] }, 'to'],
      [{ to: [999] }, 'to'],
    ] as const) {
      const error = await set(values).catch((thrown: unknown) => thrown);
      expect(error, JSON.stringify(values)).toBeInstanceOf(InvalidInput);
      expect((error as InvalidInput).errors[0].field).toBe(field);
    }
    await expect(set({}, lead)).rejects.toThrow(NotFound);
    await expect(scheduleReport(runtime, mentor, 'who-is-quiet', { ...MONDAYS, to: [1] })).rejects.toThrow(NotFound);
    const id = await set({});
    await expect(endSchedule(runtime, lead, id)).rejects.toThrow(NotFound);
    await endSchedule(runtime, mentor, id);
    expect((await schedulesPage(runtime, mentor)).schedules).toEqual([]);
  });

  it('as a link goes to those alone who may open it', async () => {
    runtime.settings.url = 'https://watch.saltholm.example';
    const report = String(await makeReport(runtime, lead, CHOSEN));
    const link = { ...MONDAYS, format: 'link', to: [mentor.staffId] };
    await expect(scheduleReport(runtime, lead, report, link)).rejects.toThrow('cannot open it');
    await shareWith(runtime, lead, report, { staff: [mentor.staffId] });
    await scheduleReport(runtime, lead, report, link);
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails[0].text).toContain(`https://watch.saltholm.example/reports/${report}`);
    expect(inbox.mails[0].attachments).toEqual([]);
  });
});

describe('the Monday letter', () => {
  it('is of one’s own people, up to one’s own number, with what one promised', async () => {
    await recalculate(runtime);
    const view = await openDriftView(runtime, mentor);
    const [l1] = await runtime.db('learner').where('external_id', 'L1').pluck('id');
    await promise(runtime, view, [l1], { due: '2026-11-26', reason: 'call about the walls' });
    const { subject, body } = await mondayLetter(runtime, mentor);
    expect(subject).toMatch(/^Your week: /);
    expect(body).toContain('Ines Marrow, Thu 26 Nov – call about the walls');
    for (const other of ['Tobias', 'Halima']) expect(body).not.toContain(other);
    expect(body).toMatch(/[Gg]ood news of the last week/);
  });

  it('is on for whoever wants it, and goes on Mondays', async () => {
    await setMondayLetter(runtime, mentor, true);
    await setMondayLetter(runtime, mentor, true);
    expect((await schedulesPage(runtime, mentor)).hasLetter).toBe(true);
    await at('2026-11-30T07:00:00Z');
    expect(inbox.mails).toMatchObject([{ to: 'mentor@staff.example', subject: expect.stringContaining('Your week') }]);
    await setMondayLetter(runtime, mentor, false);
    await at('2026-12-07T07:00:00Z');
    expect(inbox.mails).toHaveLength(1);
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(setMondayLetter(runtime, coordinator, true)).rejects.toThrow(NotFound);
  });
});
