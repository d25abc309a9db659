import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { openMailer } from './mailer';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { sendWaiting } from '../reports/send';
import { SYSTEM_VIEWER } from '../system-viewer';
import { makeCaseload } from '../people/caseloads';
import { timelineOf } from '../people/timeline';
import { askList, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import {
  FLARES,
  askFlaresAgain,
  endFlare,
  flareShown,
  flares,
  makeFlare,
  raiseFlare,
  sayFlare,
  seeFlare,
  setFlareMail,
  unseenFlares,
} from './flares';

const PORT = 25_392;
let runtime: TestRuntime;
let inbox: Inbox;
const viewers: Record<string, Viewer> = {};
beforeEach(async () => {
  // A Tuesday.
  runtime = await smallRuntime();
  inbox = await openInbox(PORT);
  for (const [name, email] of Object.entries({
    lead: 'lead@staff.example',
    mentor: 'mentor@staff.example',
    teacher: 'instructor@staff.example',
    partner: 'norrick@partner.example',
    one: 'one@staff.example',
  }))
    viewers[name] = await viewerByEmail(runtime, email);
});
afterEach(async () => {
  await inbox.close();
  await runtime.close();
});

const raise = (viewer = 'lead', more = {}) =>
  makeFlare(runtime, viewers[viewer], { learner_id: 'L1', reason: 'Has not been there since the storm.', ...more });
const shown = async (id: number, viewer = 'lead') => {
  const { seen, notSeen, state } = await flareShown(runtime, viewers[viewer], id);
  return [seen.map(({ name }) => name), notSeen, state];
};
const send = () => sendWaiting(runtime, openMailer(`smtp://127.0.0.1:${PORT}`)!);

describe('a flare', () => {
  it('calls everybody around a learner but oneself, and says who has seen it', async () => {
    const id = await raise();
    expect(await shown(id)).toEqual([[], ['Jory Kestle', 'Mair Tolland'], 'open']);
    expect(await unseenFlares(runtime, viewers.mentor)).toBe(1);
    await seeFlare(runtime, viewers.mentor, id);
    await seeFlare(runtime, viewers.mentor, id);
    expect(await shown(id)).toEqual([['Mair Tolland'], ['Jory Kestle'], 'open']);
    expect([await unseenFlares(runtime, viewers.mentor), await unseenFlares(runtime, viewers.teacher)]).toEqual([0, 1]);
    // Whoever was not called and looked is named as well.
    await seeFlare(runtime, viewers.lead, id);
    expect(sayFlare(await flareShown(runtime, viewers.lead, id))).toBe(
      'seen by Mair Tolland and Hesper Vane, not by Jory Kestle',
    );
  });

  it('as a program gets it', async () => {
    const id = await raise('mentor');
    await seeFlare(runtime, viewers.teacher, id);
    const { rows, total } = await askList(FLARES, runtime, viewers.lead, { state: 'open', learner: 'L1' });
    expect(total).toBe(1);
    expect(rows[0]).toEqual({
      id,
      learner_id: 'L1',
      name: 'Ines Marrow',
      reason: 'Has not been there since the storm.',
      by: 'Mair Tolland',
      at: '2026-11-24T09:10:00Z',
      seen: [{ name: 'Jory Kestle', at: '2026-11-24T09:10:00Z' }],
      not_seen: [],
      asked: 0,
      state: 'open',
      outcome: null,
      ended_at: null,
      ended_by: null,
    });
  });

  it('ends once, with an outcome', async () => {
    const id = await raise();
    await expect(endFlare(runtime, viewers.mentor, id, { outcome: '' })).rejects.toThrow(InvalidInput);
    await endFlare(runtime, viewers.mentor, id, { outcome: 'Called: her boat is laid up. Back on Monday.' });
    await expect(endFlare(runtime, viewers.lead, id, { outcome: 'again' })).rejects.toThrow(InvalidInput);
    expect(await flareShown(runtime, viewers.lead, id)).toMatchObject({
      state: 'ended',
      ended_by: 'Mair Tolland',
      outcome: 'Called: her boat is laid up. Back on Monday.',
    });
    // It calls nobody any more.
    expect(await unseenFlares(runtime, viewers.teacher)).toBe(0);
    expect((await flares(runtime, viewers.lead, { state: 'open' })).total).toBe(0);
  });

  it('goes to some of the crew where they are named', async () => {
    expect(await shown(await raise('lead', { to: ['INSTRUCTOR@staff.example'] }))).toEqual([
      [],
      ['Jory Kestle'],
      'open',
    ]);
    expect(await shown(await raise('lead', { to: [viewers.mentor.staffId] }))).toEqual([[], ['Mair Tolland'], 'open']);
    // From their page the same, by number.
    const learner = (await runtime.db('learner').where('external_id', 'L1').first('id'))!.id;
    const chosen = { reason: 'x', to: [String(viewers.mentor.staffId)] };
    const id = await raiseFlare(runtime, viewers.lead, learner, chosen);
    expect(await shown(id)).toEqual([[], ['Mair Tolland'], 'open']);
    for (const to of [[], ['one@staff.example'], 'all', [null], ['mentor@staff.example', 'x']]) {
      const error = await raise('lead', { to }).catch((thrown: unknown) => thrown);
      expect((error as InvalidInput).errors[0].field, JSON.stringify(to)).toBe('to');
    }
  });

  it('is refused where nobody but oneself would see it', async () => {
    const of = (learner_id: string, viewer: string) => makeFlare(runtime, viewers[viewer], { learner_id, reason: 'x' });
    await expect(of('L3', 'one')).rejects.toThrow('has nobody around them but you');
    expect(await shown(await of('L3', 'lead'))).toEqual([[], ['Aldo Finch'], 'open']);
    // Somebody who has left is not called, and one left who was called is not waited for.
    const id = await raise();
    await runtime.db('staff').where('id', viewers.teacher.staffId).update({ ended_at: 1 });
    expect(await shown(id)).toEqual([[], ['Mair Tolland'], 'open']);
    await runtime.db('staff').where('id', viewers.mentor.staffId).update({ ended_at: 1 });
    await expect(raise()).rejects.toThrow(InvalidInput);
  });

  it('does not call who has the learner on a caseload without seeing them, nor wait for who sees them no more', async () => {
    const id = await raise();
    await runtime.db('staff_scope').where('staff_id', viewers.mentor.staffId).delete();
    expect(await shown(id)).toEqual([[], ['Jory Kestle'], 'open']);
    expect(await unseenFlares(runtime, await viewerByEmail(runtime, 'mentor@staff.example'))).toBe(0);
    await makeCaseload(runtime, viewers.teacher, { name: 'Club', learners: ['L1'] });
    await runtime.db('staff_scope').where('staff_id', viewers.teacher.staffId).delete();
    await expect(raise()).rejects.toThrow(InvalidInput);
  });

  it('is never seen by whoever does not see the learner, nor by a partner', async () => {
    const id = await raise();
    for (const viewer of ['one', 'partner']) {
      expect((await flares(runtime, viewers[viewer], {})).total, viewer).toBe(0);
      await expect(flareShown(runtime, viewers[viewer], id)).rejects.toThrow(NotFound);
      await expect(seeFlare(runtime, viewers[viewer], id)).rejects.toThrow(NotFound);
      await expect(endFlare(runtime, viewers[viewer], id, { outcome: 'x' })).rejects.toThrow(NotFound);
      expect(await unseenFlares(runtime, viewers[viewer])).toBe(0);
    }
    await expect(raise('partner')).rejects.toThrow(NotFound);
    await expect(raise('one')).rejects.toThrow(InvalidInput);
    const person = await runtime.db('learner').where('external_id', 'L2').first('id');
    await expect(raiseFlare(runtime, viewers.mentor, person!.id, { reason: 'x' })).rejects.toThrow(NotFound);
    for (const odd of [Number.NaN, -1, 1.5, 1e300])
      await expect(flareShown(runtime, viewers.lead, odd)).rejects.toThrow(NotFound);
  });

  it('stands in the story, and says nothing of anybody while names are hidden', async () => {
    const id = await raise();
    await endFlare(runtime, viewers.mentor, id, { outcome: 'Spoke to Ines.' });
    const person = (await runtime.db('learner').where('external_id', 'L1').first('id'))!.id;
    const story = async (viewer: Viewer) =>
      (await timelineOf(runtime, await openDriftView(runtime, viewer), person, { kinds: ['flare'], before: null }))
        .entries;
    expect(await story(viewers.teacher)).toMatchObject([
      { kind: 'flare', by: 'Hesper Vane', says: 'seen by nobody yet', outcome: 'Spoke to Ines.' },
    ]);
    expect(await story(viewers.partner)).toEqual([]);
    const hidden = { ...viewers.lead, standInKey: 'a key' };
    const { rows } = await askList(FLARES, runtime, hidden, {});
    expect(JSON.stringify([rows, await story(hidden)])).not.toMatch(/Ines|Mair|storm|L1"/);
  });

  it('comes from a program as well, which sees nothing itself', async () => {
    const id = await makeFlare(runtime, SYSTEM_VIEWER, { learner_id: 'L1', reason: 'From the register.' });
    await seeFlare(runtime, SYSTEM_VIEWER, id);
    expect(await flareShown(runtime, viewers.lead, id)).toMatchObject({ by: null, seen: [] });
  });

  it('needs a reason', async () => {
    for (const reason of ['', undefined, 5, 'x'.repeat(1001)])
      await expect(raise('lead', { reason })).rejects.toThrow(InvalidInput);
  });
});

describe('by mail', () => {
  it('goes to those alone who want it', async () => {
    await setFlareMail(runtime, viewers.mentor, true);
    await raise();
    await send();
    expect(inbox.mails.map(({ to, subject }) => [to, subject])).toEqual([
      ['mentor@staff.example', 'Flare for Ines Marrow'],
    ]);
    expect(inbox.mails[0].text).toContain('Hesper Vane calls everybody around Ines Marrow');
    expect(inbox.mails[0].text).toContain('since the storm');
  });

  it('asks again after two working days, once each time, whoever has not seen it', async () => {
    for (const viewer of [viewers.mentor, viewers.teacher]) await setFlareMail(runtime, viewer, true);
    // A Friday: two working days on is Tuesday.
    runtime.setNow('2026-11-27T15:00:00Z');
    const id = await raise();
    await send();
    await seeFlare(runtime, viewers.teacher, id);
    for (const [now, asked] of [
      ['2026-11-30T15:00:00Z', 0],
      ['2026-12-01T14:59:59Z', 0],
      ['2026-12-01T15:00:00Z', 1],
      ['2026-12-02T15:00:00Z', 0],
      ['2026-12-03T15:00:00Z', 1],
    ] as const) {
      runtime.setNow(now);
      const both = await Promise.all([askFlaresAgain(runtime), askFlaresAgain(runtime)]);
      expect([now, both[0] + both[1]]).toEqual([now, asked]);
      await send();
    }
    expect(inbox.mails.map(({ to, subject }) => `${to} ${subject}`)).toEqual([
      'instructor@staff.example Flare for Ines Marrow',
      'mentor@staff.example Flare for Ines Marrow',
      'mentor@staff.example Still open: flare for Ines Marrow',
      'mentor@staff.example Still open: flare for Ines Marrow',
    ]);
    expect(await flareShown(runtime, viewers.lead, id)).toMatchObject({ asked: 3, notSeen: ['Mair Tolland'] });
    await endFlare(runtime, viewers.lead, id, { outcome: 'done' });
    runtime.setNow('2026-12-20T15:00:00Z');
    expect(await askFlaresAgain(runtime)).toBe(0);
  });
});
