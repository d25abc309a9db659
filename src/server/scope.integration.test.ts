import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { countedChoices } from '@/data/courses/segments';
import { findLearner, keepInScope } from '@/data/people/learners';
import { contactsOf } from '@/data/contact/contacts';
import { outboxPage } from '@/data/contact/messages';
import { coursesInLog } from '@/data/access/log/names';
import { actionWords } from '@/data/imports/mappings';
import type { Viewer } from '@/data/scope';
import { countOpenLog, openLog, readLog } from './access/access-log';
import { whoDid } from './item-use/who-did';
import { learnerDetail } from './people/learner-detail';
import { learnerList } from './people/learner-list';
import { learnerPage } from './people/learner-page';
import { ITEM_USE, visits } from './item-use/item-use';
import { openDriftView } from './request/view';
import { PARTS } from '@/core/drift/order';
import { watchPage } from './drift/watch';
import { openDraft, sendDraft, startDraft } from './contact/write';
import { askList, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from './testing';

const NOBODY_LEFT_OUT = { part: 'now', band: null, drift: null } as const;
let runtime: TestRuntime;

beforeAll(async () => {
  runtime = await smallRuntime([
    '2026-11-20T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-20T10:10:00Z,L1,NET,N1,opened',
    '2026-11-22T10:00:00Z,L3,NET,N1,opened',
  ]);
});
afterAll(() => runtime.close());

/** Whom each may see: the active, and all. */
const ROLES: [email: string, active: string[], all: string[]][] = [
  ['lead@staff.example', ['L1', 'L2', 'L3', 'L4'], ['L1', 'L2', 'L3', 'L4', 'L5']],
  ['mentor@staff.example', ['L1', 'L4'], ['L1', 'L4', 'L5']],
  ['instructor@staff.example', ['L1', 'L2', 'L4'], ['L1', 'L2', 'L4', 'L5']],
  ['norrick@partner.example', ['L1'], ['L1', 'L5']],
  ['one@staff.example', ['L3'], ['L3']],
];

describe.each(ROLES)('%s', (email, active, all) => {
  const everybody = ['L1', 'L2', 'L3', 'L4', 'L5'];
  const open = async () => openDriftView(runtime, await viewerByEmail(runtime, email));

  it('finds their own in lists, counts and searches, and nobody else', async () => {
    const view = await open();
    const list = await learnerList(runtime, view.viewer, { sort: 'learner_id' });
    expect([list.rows.map((row) => row.learner_id), list.total]).toEqual([active, active.length]);
    const withEnded = await learnerList(runtime, view.viewer, { sort: 'learner_id', status: 'all' });
    expect(withEnded.rows.map((row) => row.learner_id)).toEqual(all);
    for (const id of everybody) {
      const found = await learnerList(runtime, view.viewer, { q: id, status: 'all' });
      expect(found.total).toBe(all.includes(id) ? 1 : 0);
    }
  });

  it('finds their own on the Watch', async () => {
    const view = await open();
    const parts = await Promise.all(PARTS.map((part) => watchPage(runtime, view, { ...NOBODY_LEFT_OUT, part }, 1)));
    const people = parts.flatMap((watch) => watch.people);
    expect(people.map((person) => person.learnerId).sort()).toEqual(active);
    for (const watch of parts) expect(watch.total).toBe(active.length);
  });

  it.each(everybody)('is told of %s only when it is theirs', async (id) => {
    const view = await open();
    if (all.includes(id)) {
      expect((await learnerDetail(runtime, view.viewer, id)).learner_id).toBe(id);
      expect((await learnerPage(runtime, view, id)).learnerId).toBe(id);
    } else {
      await expect(learnerDetail(runtime, view.viewer, id)).rejects.toThrow('No such learner');
      await expect(learnerPage(runtime, view, id)).rejects.toThrow('No such learner');
    }
    await expect(learnerDetail(runtime, view.viewer, 'nobody')).rejects.toThrow('No such learner');
  });

  it('can write to their own alone, and to nobody else by guessing ids', async () => {
    const view = await open();
    const ids: number[] = await runtime.db('learner').pluck('id');
    expect(await keepInScope(runtime.db, view.viewer, ids)).toHaveLength(all.length);
    const draft = await startDraft(runtime, view, ids);
    const { recipients } = await openDraft(runtime, view, draft);
    expect(recipients.map((one) => one.learnerId).sort()).toEqual(all);
  });

  it('is offered only courses, groups and organisations with people of theirs', async () => {
    const view = await open();
    const choices = await countedChoices(runtime.db, view.viewer);
    for (const choice of choices) {
      const watch = await watchPage(runtime, { ...view, segment: choice.segment }, NOBODY_LEFT_OUT, 1);
      expect([choice.key, watch.total]).toEqual([choice.key, choice.learners]);
      expect(watch.total).toBeGreaterThan(0);
    }
  });
});

describe('somebody limited to a course', () => {
  it('sees what a learner did there, and nothing of what they did elsewhere', async () => {
    const viewer = await viewerByEmail(runtime, 'instructor@staff.example');
    const detail = await learnerDetail(runtime, viewer, 'L1');
    expect(detail).toMatchObject({ courses: ['DRY'], last_access: '2026-11-20T10:00:00Z', minutes_online: 10 });
    const page = await learnerPage(runtime, await openDriftView(runtime, viewer), 'L1');
    expect(page.visits).toMatchObject([{ events: 1, courses: ['DRY'] }]);
    expect(page.wake.minutes.reduce((sum, value) => sum + value, 0)).toBe(10);
  });

  it('cannot look at another course through its name', async () => {
    const viewer = await viewerByEmail(runtime, 'instructor@staff.example');
    await expect(learnerList(runtime, viewer, { course: 'NET' })).rejects.toThrow('No such course');
    await expect(learnerList(runtime, viewer, { course: 'nowhere' })).rejects.toThrow('No such course');
  });
});

describe('messages', () => {
  it('stand in the record of those in scope alone, and a draft is its writer’s own', async () => {
    const lead = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
    const l3 = (await findLearner(runtime.db, lead.viewer, 'L3'))!;
    const draft = await startDraft(runtime, lead, [l3]);
    await sendDraft(runtime, lead, draft, { subject: 'Hello', body: 'Hello {{given_name}}' }, []);
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    expect(await contactsOf(runtime.db, coordinator, [l3], { each: 5, until: Infinity })).toEqual([]);
    expect((await outboxPage(runtime.db, { viewer: coordinator, segment: {} }, null, { limit: 10 })).total).toBe(0);
    expect((await outboxPage(runtime.db, { viewer: lead.viewer, segment: {} }, null, { limit: 10 })).total).toBe(1);
    await expect(openDraft(runtime, await openDriftView(runtime, coordinator), draft)).rejects.toThrow(
      'No such message',
    );
  });
});

describe('what lies outside of one’s scope', () => {
  /** What an asking comes to: its answer, or how it was refused. */
  const comesTo = async (work: Promise<unknown>) => {
    try {
      return JSON.stringify(await work);
    } catch (error) {
      return `${(error as Error).name}: ${(error as Error).message}`;
    }
  };
  const rowsOf = async (viewer: Viewer, values: Record<string, string>) => {
    const { rows, total } = await learnerList(runtime, viewer, values);
    return [rows.map((row) => row.learner_id), total];
  };
  const logOfViewer = async (viewer: Viewer, values: Record<string, string>) => {
    const log = await openLog(runtime, viewer, values);
    return [
      (await readLog(runtime, log, { limit: 50 })).rows.map((row) => row.id),
      (await countOpenLog(runtime, log)).total,
    ];
  };

  it('answers, orders and counts as what does not exist', async () => {
    await bringIn(runtime, 'access-log', logOf(['2026-11-19T10:00:00Z,L3,NET,N1,unheard_of']));
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const one = await viewerByEmail(runtime, 'one@staff.example');
    const pairs: [viewer: Viewer, there: Record<string, string>, none: Record<string, string>][] = [
      [mentor, { course: 'NET' }, { course: 'NIX' }],
      [mentor, { group: 'NET/A' }, { group: 'NIX/A' }],
      [mentor, { group: 'DRY/B' }, { group: 'DRY/Z' }],
      [mentor, { course: 'DRY', group: 'B' }, { course: 'DRY', group: 'Z' }],
      [mentor, { organisation: 'Penhallow' }, { organisation: 'Nobody Ltd' }],
      [one, { organisation: 'Norrick' }, { organisation: 'Nobody Ltd' }],
    ];
    const alike = (text: string, there: Record<string, string>) =>
      Object.values(there).reduce((said, value) => said.replaceAll(value, '…'), text);
    for (const [viewer, there, none] of pairs) {
      const asks: ((values: Record<string, string>) => Promise<unknown>)[] = [
        (values) => rowsOf(viewer, values),
        (values) => logOfViewer(viewer, values),
        (values) => askList(ITEM_USE, runtime, viewer, values),
        (values) => whoDid(runtime, viewer, { ...values, kind: 'looked' }),
        (values) => visits(runtime, viewer, { ...values, learner: viewer === mentor ? 'L1' : 'L3' }),
      ];
      for (const ask of asks) {
        const [is, isNot] = [await comesTo(ask(there)), await comesTo(ask(none))];
        expect([there, alike(is, there)]).toEqual([there, alike(isNot, none)]);
      }
    }
  });

  it('tells nothing by a filter for an item or an action', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    for (const name of ['opened', 'not_opened']) {
      const [is, isNot] = await Promise.all(
        ['NET/N1', 'NIX/N1'].map((item) => comesTo(rowsOf(mentor, { [name]: item }))),
      );
      expect(is.replaceAll('NET/N1', '…')).toBe(isNot.replaceAll('NIX/N1', '…'));
    }
    // A word that only others have used is as one that nobody has.
    expect(await logOfViewer(mentor, { action: 'unheard_of' })).toEqual(
      await logOfViewer(mentor, { action: 'nothing' }),
    );
    const seen = await coursesInLog(runtime.db, await openDriftView(runtime, mentor));
    expect(await actionWords(runtime.db, seen)).toEqual(['opened']);
    // Somebody seen in one course says nothing of what they did in another.
    const bothWays = { ...mentor, groups: [], courses: [2], learners: [] };
    const [net] = await runtime.db('course').where('code', 'NET').select('id');
    const ofNet = { ...bothWays, courses: [net.id] };
    expect(await comesTo(rowsOf(ofNet, { opened: 'DRY/D1' }))).toContain('not there');
  });

  it('orders nobody by courses that are not shown', async () => {
    // L1 is in DRY and NET, L4 in DRY alone: who sees DRY alone sees them as alike.
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const [up, down] = await Promise.all(['courses', '-courses'].map((sort) => rowsOf(mentor, { sort })));
    expect(up).toEqual(down);
    const lead = await viewerByEmail(runtime, 'lead@staff.example');
    const [all, back] = await Promise.all(['courses', '-courses'].map((sort) => rowsOf(lead, { sort })));
    expect(all).not.toEqual(back);
  });
});
