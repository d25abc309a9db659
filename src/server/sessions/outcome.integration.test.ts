import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { DEFAULT_MARKS } from '@/core/sessions/attendance';
import { LATE_AFTER, outcomeOf, wasThere } from '@/core/sessions/outcome';
import { DEFAULT_THRESHOLDS } from '@/core/sessions/suggest';
import { dayFromDate } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { attendedItems } from '@/data/sessions/attended-items';
import { openSessionCredits } from '@/data/sessions/session-credits';
import { openDriftView } from '../request/view';
import { whoDid } from '../item-use/who-did';
import { learnerSessions } from './records';
import { openCast, type Cast } from './testing';

let cast: Cast;
afterEach(() => cast.runtime.close());

const MINUTE = 60_000;
const MARKS = new Map(DEFAULT_MARKS.map((mark) => [mark.code, mark]));

/** One of the three who may be in a session, as random rows have it. */
const anybody = fc.record({
  mark: fc.option(fc.constantFrom('present', 'late', 'partial', 'absent', 'excused'), { nil: null, freq: 2 }),
  checkedIn: fc.option(fc.integer({ min: -10, max: 59 }), { nil: null, freq: 2 }),
  seen: fc.option(fc.record({ from: fc.integer({ min: 0, max: 50 }), minutes: fc.integer({ min: 0, max: 60 }) }), {
    nil: null,
    freq: 3,
  }),
});
const session = fc.record({
  isClosed: fc.boolean(),
  hasUnnamed: fc.boolean(),
  rule: fc.option(
    fc.record({
      absentUnder: fc.constantFrom(0.1, 0.25, 0.5),
      presentFrom: fc.constantFrom(0.6, 0.75, 0.9),
      graceMinutes: fc.integer({ min: 0, max: 20 }),
      lateAfter: fc.integer({ min: 0, max: 20 }),
    }),
    { nil: null },
  ),
  people: fc.tuple(anybody, anybody, anybody),
});

describe('how a session went', () => {
  it('is told the same by the rule, its view, drift, records and who did something', async () => {
    cast = await openCast();
    const { runtime, lead } = cast;
    const { db } = runtime;
    const people = await db('enrolment')
      .join('learner', 'learner.id', 'learner_id')
      .join('course', 'course.id', 'enrolment.course_id')
      .whereIn('learner.external_id', ['L1', 'L4', 'L2'])
      .where('course.code', 'DRY')
      .select('enrolment.id as enrolment', 'learner.id', 'learner.external_id as external');
    const [own] = await db('session').where('external_id', 'DRY-A-2').select();
    const [item] = await db('item')
      .insert({
        course_id: own.course_id,
        external_id: 'S2',
        title: 'Week 2',
        kind: 'session',
        required: 1,
        position: 9,
      } as never)
      .returning('id');
    // Everybody of the course.
    await db('session').where('id', own.id).update({ group_id: null, item_id: item.id });
    await fc.assert(
      fc.asyncProperty(session, async ({ isClosed, hasUnnamed, rule, people: drawn }) => {
        for (const table of ['attendance', 'check_in', 'presence', 'presence_row'] as const)
          await db(table).where('session_id', own.id).delete();
        await db('session_rule').delete();
        if (rule)
          await db('session_rule').insert({
            course_id: own.course_id,
            absent_under: rule.absentUnder,
            present_from: rule.presentFrom,
            grace_minutes: rule.graceMinutes,
            late_after: rule.lateAfter,
          });
        await db('session')
          .where('id', own.id)
          .update({ roll_at: isClosed ? own.ends_at : null });
        const row = { session_id: own.id, person: 'x', folded: 'x', email: null, left: null };
        if (hasUnnamed)
          await db('presence_row').insert({ ...row, entered: own.starts_at, learner_id: null, matched: null } as never);
        for (const [index, { mark, checkedIn, seen }] of drawn.entries()) {
          const of = { session_id: own.id, learner_id: people[index].id };
          if (mark !== null)
            await db('attendance').insert({ ...of, mark, remark: '', source: 'hand', at: own.ends_at } as never);
          if (checkedIn !== null)
            await db('check_in').insert({
              ...of,
              device: `d${index}`,
              at: own.starts_at + checkedIn * MINUTE,
              state: 'in',
            } as never);
          if (seen === null) continue;
          const firstIn = seen.minutes === 0 ? null : own.starts_at + seen.from * MINUTE;
          await db('presence').insert({
            ...of,
            ms: seen.minutes * MINUTE,
            first_in: firstIn,
            last_out: firstIn === null ? null : firstIn + seen.minutes * MINUTE,
            reconnects: 0,
            longest_gap_ms: 0,
            is_open: 0,
          });
          await db('presence_row').insert({
            ...row,
            entered: own.starts_at,
            learner_id: of.learner_id,
            matched: 'name',
          } as never);
        }
        const hasPresence = hasUnnamed || drawn.some(({ seen }) => seen !== null);
        const expected = drawn.map(({ mark, checkedIn, seen }) =>
          outcomeOf(
            {
              startsAt: own.starts_at,
              endsAt: own.ends_at,
              isClosed,
              mark,
              isByCheckIn: false,
              checkedInAt: checkedIn === null ? null : own.starts_at + checkedIn * MINUTE,
              presence: seen && {
                ms: seen.minutes * MINUTE,
                firstIn: seen.minutes === 0 ? null : own.starts_at + seen.from * MINUTE,
                lastOut: seen.minutes === 0 ? null : own.starts_at + (seen.from + seen.minutes) * MINUTE,
              },
              hasPresence,
              hasUnnamed,
            },
            rule ?? { ...DEFAULT_THRESHOLDS, lateAfter: LATE_AFTER },
            MARKS,
          ),
        );
        const there = expected.map(wasThere);
        const view = await openDriftView(runtime, lead, {});
        for (const [index, one] of people.entries()) {
          const want = expected[index];
          const [stored] = await db
            .from('session_outcome')
            .where({ session_id: own.id, enrolment_id: one.enrolment })
            .select();
          expect(stored ?? null).toEqual(
            want &&
              expect.objectContaining({
                mark: want.mark,
                credit: want.credit,
                is_provisional: Number(want.isProvisional),
              }),
          );
          const credits = await withRaw(db, (raw) =>
            openSessionCredits(raw)({ enrolmentId: one.enrolment, courseId: own.course_id }),
          );
          expect(credits).toEqual(want?.counts ? [[own.day + Number(want.isProvisional), want.credit]] : []);
          const { sessions } = await learnerSessions(runtime, view, one.id);
          const found = sessions.find(({ session_id }) => session_id === 'DRY-A-2')?.outcome ?? null;
          expect(found).toBe(
            want === null ? null : there[index] === null ? 'excused' : there[index] ? 'attended' : 'missed',
          );
        }
        const attended = await withRaw(db, (raw) => attendedItems(raw, [item.id], runtime.clock.now()));
        const wanted = people.filter((_, index) => there[index] === true);
        expect(attended.map(([id]) => id).sort()).toEqual(wanted.map(({ id }) => id).sort());
        const answer = await whoDid(runtime, lead, { item: 'S2' });
        expect(answer.did.map(({ learner_id }) => learner_id).sort()).toEqual(wanted.map((one) => one.external).sort());
      }),
      { numRuns: 60 },
    );
  });

  it('counts on the last day of somebody’s time in the course', async () => {
    cast = await openCast();
    const { db } = cast.runtime;
    const day = dayFromDate('2026-11-17')!;
    const [l1] = await db('enrolment')
      .join('learner', 'learner.id', 'learner_id')
      .where('learner.external_id', 'L1')
      .select('enrolment.id');
    const [own] = await db('session').where('external_id', 'DRY-A-2').select('id');
    const [learner] = await db('learner').where('external_id', 'L1').select('id');
    await db('attendance').insert({
      session_id: own.id,
      learner_id: learner.id,
      mark: 'present',
      remark: '',
      source: 'hand',
      at: 1,
    } as never);
    for (const [ended_day, found] of [
      [day - 1, 0],
      [day, 1],
    ]) {
      await db('enrolment').where('id', l1.id).update({ ended_day });
      expect(await db.from('session_outcome').where({ session_id: own.id, enrolment_id: l1.id })).toHaveLength(found);
    }
  });
});
