import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { checkAll } from '../check';
import { mergeLearners, unmergeLearners } from '../people/merging';
import { whoDid } from '../item-use/who-did';
import { checkClaim } from '../access/claim';
import { LiveHub } from '../access/live/hub';
import { rightNow } from '../access/live/now';
import { openView, openDriftView } from '../request/view';
import { bringIn, counts } from '../testing';
import { findLearner } from '@/data/people/learners';
import { settlePerson, takePresence } from './presence';
import { recordState } from './record-state';
import { openSession } from './session';
import { openCast, type Cast } from './testing';

let cast: Cast;
beforeEach(async () => {
  cast = await openCast();
});
afterEach(() => cast.runtime.close());

const at = (time: string) => `2026-11-17T${time}Z`;
const seen = async (id = 'DRY-A-2') => {
  const { people, unmatched, others } = await openSession(cast.runtime, cast.lead, id);
  return {
    minutes: Object.fromEntries(
      people.filter(({ presence }) => presence).map(({ learner_id, presence }) => [learner_id, presence!.ms / 60_000]),
    ),
    unmatched: unmatched.map(({ person, proposed }) => [person, proposed?.learner_id ?? null]),
    others: others.map(({ person, matched }) => [person, matched]),
  };
};

describe('presence sent by a meeting', () => {
  it('is brought up to date by the same person and time, and nothing counts twice', async () => {
    const send = (...rows: object[]) => takePresence(cast.runtime, cast.lead, 'DRY-A-2', rows);
    const ines = { person: 'Ines Marrow (phone)', entered: at('18:30:00') };
    expect(await send(ines)).toEqual({ accepted: 1, duplicate: 0, unmatched: 0 });
    expect((await seen()).minutes).toEqual({ L1: 90 });
    expect(await send({ ...ines, left: at('18:40:30') })).toEqual({ accepted: 1, duplicate: 0, unmatched: 0 });
    expect(await send({ ...ines, left: at('18:40:30') })).toEqual({ accepted: 0, duplicate: 1, unmatched: 0 });
    await send({ person: 'L1', entered: at('18:35:00'), left: at('18:50:00') });
    expect((await seen()).minutes).toEqual({ L1: 20 });
    expect((await checkAll(cast.runtime)).problems).toEqual([]);
  });

  it('is taken whole or not at all, and names row and field', async () => {
    const fault = (rows: unknown) => takePresence(cast.runtime, cast.lead, 'DRY-A-2', rows).then(() => 'taken', String);
    const good = { person: 'L1', entered: at('18:30:00') };
    expect(await fault([good, { person: '', entered: at('18:30:00') }])).toMatch(/1.person is missing/);
    expect(await fault([good, { person: 'x', entered: 'soon' }])).toMatch(/1.entered is not a time/);
    expect(await fault([{ ...good, left: at('18:00:00') }])).toMatch(/0.left lies before entered/);
    expect(await fault([{ ...good, entered: '2026-11-19T18:30:00Z' }])).toMatch(/0.entered lies more than 12 hours/);
    expect(await fault([null, 3, 'x'])).toMatch(/0.person is missing/);
    expect(await fault({})).toMatch(/body is not a list/);
    expect((await seen()).minutes).toEqual({});
  });

  it('is for whoever takes the roll, and tells others nothing', async () => {
    const rows = [{ person: 'L1', entered: at('18:30:00') }];
    for (const viewer of [cast.coordinator, cast.one]) {
      await expect(takePresence(cast.runtime, viewer, 'DRY-A-2', rows)).rejects.toThrow('No such session');
    }
    await takePresence(cast.runtime, cast.mentor, 'DRY-A-2', [
      ...rows,
      { person: 'A stranger', entered: at('18:30:00') },
    ]);
    const partner = await openSession(cast.runtime, cast.coordinator, 'DRY-A-2');
    expect(partner.unmatched).toEqual([]);
    expect(partner.people.map(({ learner_id }) => learner_id)).toEqual(['L1']);
  });
});

describe('names', () => {
  const send = (person: string, email?: string) =>
    takePresence(cast.runtime, cast.lead, 'DRY-A-2', [
      { person, ...(email && { email }), entered: at('18:30:00'), left: at('19:00:00') },
    ]);

  it('are settled for the whole course, remembered, and opened again', async () => {
    await send('Ines Marow');
    await send('Pet');
    await send('Front desk');
    await send('Mair', 'mentor@staff.example');
    expect(await seen()).toMatchObject({
      unmatched: [
        ['Front desk', null],
        ['Ines Marow', 'L1'],
        ['Pet', null],
      ].sort(() => 0) as never,
      others: [['Mair', 'staff']],
    });
    const settle = (person: string, as: string, learner_id?: string) =>
      settlePerson(cast.runtime, cast.mentor, 'DRY-A-2', { person, as, ...(learner_id && { learner_id }) });
    expect(await settle('Pet', 'learner', 'L4')).toBeNull();
    await settle('front DESK', 'nobody');
    expect(await seen()).toMatchObject({ minutes: { L4: 30 }, unmatched: [['Ines Marow', 'L1']] });
    // Remembered: another session of the course needs no settling.
    await takePresence(cast.runtime, cast.lead, 'DRY-A-1', [
      { person: 'pet (laptop)', entered: '2026-10-01T17:30:00Z', left: '2026-10-01T18:00:00Z' },
    ]);
    expect((await seen('DRY-A-1')).minutes).toEqual({ L4: 30 });
    expect(await settle('Pet', 'forget')).toMatchObject({ learner_id: expect.any(Number) });
    expect((await seen('DRY-A-1')).minutes).toEqual({});
    await expect(settle('Pet', 'learner', 'L3')).rejects.toThrow(/nobody of this course|learner_id/);
    await expect(
      settlePerson(cast.runtime, cast.coordinator, 'DRY-A-2', { person: 'Pet', as: 'nobody' }),
    ).rejects.toThrow('No such session');
  });

  it('are looked at once more when somebody is enrolled later', async () => {
    await send('Ulf Zeal');
    expect((await seen()).unmatched).toEqual([['Ulf Zeal', null]]);
    await bringIn(
      cast.runtime,
      'roster',
      'learner_id,given_name,family_name,course,group,enrolled_on,status\nL9,Ulf,Zeal,DRY,A,2026-10-01,active\n',
    );
    expect(await seen()).toMatchObject({ minutes: { L9: 30 }, unmatched: [] });
  });

  it('stay with their rows when two records become one, and go back', async () => {
    await send('Tobias Quill');
    const [kept, gone] = await Promise.all(['L1', 'L2'].map((id) => findLearner(cast.runtime.db, cast.lead, id)));
    expect((await seen()).minutes).toEqual({ L2: 30 });
    await mergeLearners(cast.runtime, cast.lead, kept!, gone!);
    expect((await seen()).minutes).toEqual({ L1: 30 });
    expect((await checkAll(cast.runtime)).problems).toEqual([]);
    await unmergeLearners(cast.runtime, cast.lead, kept!);
    expect((await seen()).minutes).toEqual({ L2: 30 });
  });
});

describe('a record as a file', () => {
  const file = `Participant,E-mail,Join time,Leave time
"Ines Marrow",,17/11/2026 18:31,17/11/2026 18:35
"Petra Sandoval",,17/11/2026 18:30,17/11/2026 20:00
"Nobody Known",,17/11/2026 18:30,
"Tobias",,19/11/2026 18:30,
`;
  const mapping = JSON.stringify({
    columns: { participant: 'person', e_mail: 'email', join_time: 'entered', leave_time: 'left' },
    dates: 'day_first',
    timezone: 'Europe/Dublin',
  });

  it('has any headings by a mapping, is of one session, and tells what became of it', async () => {
    const run = await bringIn(cast.runtime, 'presence', file, { session: 'DRY-A-2', mapping });
    expect(counts(run)).toMatchObject({ state: 'done', accepted: 3, rejected: 1 });
    expect(run.unmatched).toBe(1);
    expect((await seen()).minutes).toEqual({ L1: 4, L4: 90 });
    const state = await recordState(cast.runtime, cast.mentor, 'DRY-A-2', String(run.id));
    expect(state.rejects).toEqual([['5', 'entered', expect.stringContaining('more than 12 hours')]]);
    await expect(recordState(cast.runtime, cast.mentor, 'DRY-A-1', String(run.id))).rejects.toThrow('No such import');
    expect(counts(await bringIn(cast.runtime, 'presence', file, { session: 'DRY-A-2', mapping }))).toMatchObject({
      accepted: 0,
      duplicate: 3,
    });
    expect(counts(await bringIn(cast.runtime, 'presence', file, { mapping }))).toMatchObject({
      accepted: 0,
      rejected: 4,
    });
  });

  it('is evidence in a claim check, and a deed of the session’s item', async () => {
    const { runtime, lead, mentor } = cast;
    await bringIn(runtime, 'outline', 'course,unit,item_id,item,kind\nDRY,Week 2,DRY-A-2,Evening,session\n');
    await bringIn(runtime, 'presence', file, { session: 'DRY-A-2', mapping });
    const view = await openDriftView(runtime, mentor);
    const id = (await findLearner(runtime.db, mentor, 'L1'))!;
    const claim = await checkClaim(runtime, view, id, { from: '2026-11-16', to: '2026-11-22' });
    expect(claim.verdict.says).toBe(
      'No visit; nothing handed in; session on Tue 17 Nov: in 18:31, out 18:35, 4 of 90 min, provisional, the roll is not closed.',
    );
    const { did: has, did_not } = await whoDid(runtime, lead, {
      item: 'DRY-A-2',
      course: 'DRY',
      from: '2026-11-16',
      to: '2026-11-22',
    });
    expect(has).toEqual([
      {
        learner_id: 'L4',
        name: 'Petra Sandoval',
        count: 1,
        first: '2026-11-17T18:30:00Z',
        last: '2026-11-17T18:30:00Z',
      },
    ]);
    expect(did_not.map(({ learner_id }) => learner_id)).toEqual(['L1', 'L2']);
  });
});

describe('a session that is on', () => {
  it('tells whoever watches it of each change, and at once of what changed before they did', async () => {
    const { runtime, mentor } = cast;
    const hub = new LiveHub(runtime.db);
    const opened = await openSession(runtime, mentor, 'DRY-A-3');
    const sent: string[] = [];
    const watch = () =>
      hub.watchSession(opened.session.id, (piece) => sent.push(new TextDecoder().decode(piece)), opened.version);
    const end = await watch();
    await hub.look();
    expect(sent).toEqual([]);
    const row = { person: 'Ines Marrow', entered: '2026-11-24T09:01:00Z' };
    await takePresence(runtime, mentor, 'DRY-A-3', [row]);
    await hub.look();
    await hub.look();
    expect(sent).toHaveLength(1);
    await takePresence(runtime, mentor, 'DRY-A-3', [{ ...row, left: '2026-11-24T09:05:00Z' }]);
    await hub.look();
    expect(sent).toHaveLength(2);
    expect(sent.join('')).not.toMatch(/Ines|L1|DRY/);
    // A page that was made before all of it, and watches only now.
    const late = await watch();
    expect(sent).toHaveLength(3);
    late();
    end();
    expect(hub.watchers).toBe(0);
  });

  it('has no suggestion yet, and is the class list of right now', async () => {
    const { runtime, mentor } = cast;
    await takePresence(runtime, mentor, 'DRY-A-3', [{ person: 'Ines Marrow', entered: '2026-11-24T09:01:00Z' }]);
    const opened = await openSession(runtime, mentor, 'DRY-A-3');
    expect(opened.people.map(({ suggested }) => suggested)).toEqual([null, null]);
    const now = await rightNow(runtime, await openView(runtime, mentor, { group: 'DRY/A' }), {});
    expect(now.session).toMatchObject({ session_id: 'DRY-A-3' });
    expect(now.inClass!.members!.map(({ learner_id, first_in }) => [learner_id, first_in])).toEqual([
      ['L1', Date.parse('2026-11-24T09:01:00Z')],
      ['L4', null],
    ]);
    const asked = await rightNow(runtime, await openView(runtime, mentor, { group: 'DRY/A' }), { since: '09:00' });
    expect(asked.inClass!.members!.map(({ first_in }) => first_in)).toEqual([null, null]);
  });
});
