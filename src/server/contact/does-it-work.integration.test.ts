import { buffer } from 'node:stream/consumers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readAllPast, recalculate } from '../drift/recalculate';
import type { Viewer } from '@/data/scope';
import { InvalidInput } from '../request/input';
import { askList, bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { DOES_IT_WORK, doesItWork, judgedContacts } from './does-it-work';
import { doesItWorkReport } from './does-it-work-report';
import { openDriftView } from '../request/view';

/** Twelve who all did the same until 2 November, and one of another course. */
const PEOPLE = Array.from({ length: 12 }, (_, n) => `L${n}`);
let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
const ids = new Map<string, number>();

beforeAll(async () => {
  runtime = await testRuntime('2026-11-24T09:10:00Z', 'UTC');
  const item = (id: string) => `DRY,Drystone Walling,2026-10-05,2026-12-21,Week 1,${id},${id},page,yes\n`;
  const net = 'NET,Net Work,2026-10-05,2026-12-21,Week 1,N1,Knots,page,yes\n';
  await bringIn(
    runtime,
    'outline',
    `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required\n${item('D1')}${item('D2')}${net}`,
  );
  const rows = PEOPLE.map((id, n) => `${id},Ada,Moss${n},DRY,${n < 6 ? 'A' : 'B'},2026-10-05,active`);
  await bringIn(
    runtime,
    'roster',
    [
      'learner_id,given_name,family_name,course,group,enrolled_on,status',
      ...rows,
      'N1,Noa,Reed,NET,A,2026-10-05,active',
      '',
    ].join('\n'),
  );
  await bringIn(
    runtime,
    'staff',
    'staff_id,given_name,family_name,email,role,scope_kind,scope\nS1,Hesper,Vane,lead@staff.example,lead,all,\nS2,Mair,Tolland,mentor@staff.example,mentor,group,DRY/A\nS3,Jory,Kestle,other@staff.example,mentor,course,DRY\n',
  );
  const log: string[] = [];
  for (let day = 5; day <= 30; day += 1)
    for (const id of [...PEOPLE, 'N1'])
      log.push(`2026-10-${String(day).padStart(2, '0')}T10:00:00Z,${id},${id === 'N1' ? 'NET,N1' : 'DRY,D1'},opened`);
  // After the contacts of 6 November: L0 and L1 came back, as did L6 of those left alone; L2 did after eight days.
  log.push('2026-11-07T10:00:00Z,L0,DRY,D2,opened', '2026-11-12T10:00:00Z,L1,DRY,D2,opened');
  log.push('2026-11-08T10:00:00Z,L6,DRY,D2,opened', '2026-11-14T10:00:00Z,L2,DRY,D2,opened');
  await bringIn(runtime, 'access-log', logOf(log));
  await recalculate(runtime);
  await readAllPast(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  for (const { id, external_id } of await runtime.db('learner').select('id', 'external_id')) ids.set(external_id, id);
  const call = (learner: string, at: string, outcome: string, staff = mentor) => ({
    learner_id: ids.get(learner)!,
    staff_id: staff.staffId,
    at: Date.parse(at),
    outcome,
    remark: '',
  });
  await runtime.db('call').insert([
    call('L0', '2026-11-06T12:00:00Z', 'spoke'),
    call('L1', '2026-11-06T12:00:00Z', 'left_message'),
    call('L2', '2026-11-06T12:00:00Z', 'left_message', lead),
    call('L3', '2026-11-06T12:00:00Z', 'no_answer'),
    call('L4', '2026-11-23T12:00:00Z', 'met'),
    // Contacted five days later: not left alone then.
    call('L7', '2026-11-11T12:00:00Z', 'spoke', lead),
  ]);
});
afterAll(() => runtime.close());

describe('does it work', () => {
  it('holds contacts against those who stood alike and whom nobody contacted', async () => {
    const view = await openDriftView(runtime, lead);
    const judged = await judgedContacts(runtime, view, { to: 20_763 });
    // On 6 November: L3 (nobody was reached), L5, L6, L8 to L11 and L4 stood alike; L6 alone of them came back.
    const [first] = judged.filter(({ day }) => day === 20_763);
    expect(first.likeRate).toBeCloseTo(1 / 8, 10);
  });

  it('says by channel how many came back, answered or neither', async () => {
    const { rows } = await askList(DOES_IT_WORK, runtime, lead, { course: 'DRY' });
    expect(
      rows.map(({ of, contacts, answered, returned, unanswered }) => [of, contacts, answered, returned, unanswered]),
    ).toEqual([
      ['call', 4, 2, 2, 1],
      ['meeting', 1, 1, 0, 0],
    ]);
    expect(rows[0]).toMatchObject({ rate: 0.5, low: expect.closeTo(0.15004, 4), high: expect.closeTo(0.84996, 4) });
    const [call] = rows as unknown as {
      like: { contacts: number; rate: number };
      difference: { value: number; low: number };
    }[];
    expect(call.like.contacts).toBeGreaterThanOrEqual(3);
    expect(call.difference.value).toBeGreaterThan(0.2);
    expect(call.difference.low).toBeLessThanOrEqual(call.difference.value);
  });

  it('says so by writer, template and week, in a period', async () => {
    const of = async (values: object) =>
      (await doesItWork(runtime, lead, { ...values })).rows.map((row) => `${row.of} ${row.contacts}`);
    expect(await of({ by: 'writer' })).toEqual(['Mair Tolland 3', 'Hesper Vane 2']);
    expect(await of({ by: 'template' })).toEqual(['no template 5']);
    expect(await of({ by: 'week' })).toEqual(['2026-11-02 3', '2026-11-09 1', '2026-11-23 1']);
    expect(await of({ from: '2026-11-07', to: '2026-11-22' })).toEqual(['call 1']);
    expect(await of({ group: 'DRY/B' })).toEqual(['call 1']);
    expect(await of({ course: 'NET' })).toEqual([]);
    await expect(of({ by: 'day' })).rejects.toThrow(InvalidInput);
    await expect(of({ from: '2026-11-07', to: '2026-11-01' })).rejects.toThrow(InvalidInput);
  });

  it('tells the days to a first contact, and of a later one none, whatever the period', async () => {
    const view = await openDriftView(runtime, lead);
    const before = (await runtime.db('call').max({ last: 'id' }).first())!.last as number;
    for (const day of ['14', '16'])
      await runtime.db('call').insert({
        ...{ learner_id: ids.get('L8')!, staff_id: lead.staffId, outcome: 'spoke', remark: '' },
        at: Date.parse(`2026-11-${day}T12:00:00Z`),
      });
    const since = async (from?: number) =>
      (await judgedContacts(runtime, view, { from }))
        .filter(({ learnerId }) => learnerId === ids.get('L8'))
        .map(({ daysSinceCrossing }) => daysSinceCrossing);
    expect(await since()).toEqual([expect.any(Number), null]);
    expect(await since(20_772)).toEqual([null]);
    await runtime.db('call').where('id', '>', before).delete();
  });

  it('is of whom the viewer sees alone, and lists whom nobody answered', async () => {
    const { all, unanswered } = await doesItWork(runtime, mentor, {});
    expect(all).toMatchObject({ contacts: 4, returned: 2, unanswered: 1 });
    expect(unanswered.map(({ learnerId }) => learnerId)).toEqual([ids.get('L2')]);
    expect(await doesItWork(runtime, { ...mentor, groups: [], courses: [] }, {})).toMatchObject({
      all: null,
      rows: [],
    });
  });

  it('counts an answer within five days, and a message with its template', async () => {
    const { db } = runtime;
    const [template] = await db('template')
      .insert({ name: 'A first step', subject: 's', body: 'b', position: 1 } as never)
      .returning('id');
    const [draft] = await db('draft')
      .insert({
        staff_id: mentor.staffId,
        created_at: 1,
        subject: '',
        body: '',
        channel: 'email',
        is_about: 1,
      } as never)
      .returning('id');
    const message = (learner: string, answer: number) => ({ learner, answer });
    for (const { learner, answer } of [message('L4', 4), message('L5', 6)]) {
      const at = Date.parse('2026-11-10T09:00:00Z');
      const [{ id }] = await db('message')
        .insert({
          ...{
            draft_id: draft.id,
            learner_id: ids.get(learner),
            staff_id: mentor.staffId,
            address: 'x',
            subject: '',
            body: '',
          },
          ...{ state: 'sent', attempts: 1, next_try_at: 0, message_id: `<${learner}>`, created_at: at, sent_at: at },
          ...{ channel: 'email', template_id: template.id, not_before: 0 },
        } as never)
        .returning('id');
      const reply = { learner_id: ids.get(learner), message_id: id, kind: 'answer', external_id: learner, sender: 'x' };
      await db('reply').insert({ ...reply, subject: '', body: 'y', received_at: at + answer * 86_400_000 } as never);
    }
    const { rows } = await doesItWork(runtime, lead, { by: 'template' });
    expect(rows.map(({ of, contacts, answered }) => [of, contacts, answered])).toEqual([
      ['no template', 5, 3],
      ['A first step', 2, 1],
    ]);
  });
});

describe('the report on paper', () => {
  it('is a PDF of the same scope, and refuses what the list refuses', async () => {
    const bytes = await buffer(await doesItWorkReport(runtime, mentor, { by: 'week' }));
    expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
    expect(bytes.length).toBeGreaterThan(2000);
    await expect(doesItWorkReport(runtime, lead, { from: '2026-11-10', to: '2026-11-01' })).rejects.toThrow(
      InvalidInput,
    );
  });
});
