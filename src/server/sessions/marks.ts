/** The programme's own marks, and where a course draws the line between them. */
import { IsIn, IsNotEmpty, Matches, MaxLength } from 'class-validator';
import { attendanceOf } from '@/core/sessions/attendance';
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { marksInTime } from '@/data/sessions/attendance';
import { addMark, asMark, changeMark, keepSessionRule, listMarks, type MarkRow } from '@/data/sessions/marks';
import { ALL_PROGRESS, staleProgressIn } from '@/data/completion/enrolment-progress';
import { OF_ALL, OF_COURSE, noteStaleIn } from '@/data/drift/stale';
import { findSegment } from '@/data/courses/segments';
import { fullName } from '@/core/people/name';
import { namesOf } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { AsCount, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { rulesOf } from './session';
import { mayPlan } from './rights';

const missing = { message: 'is missing' };
const credit = { message: 'is not a share from 0 to 1, such as 0.75' };

export class MarkInput {
  @IsNotEmpty(missing) @MaxLength(30, { message: 'is longer than 30 characters' }) label!: string;
  @Matches(/^(0|1|0?\.\d{1,4}|[01]\.0+)$/, credit) credit!: string;
  @IsIn(['yes', 'no'], { message: 'is not one of yes, no' }) counts!: string;
}

/** What a change of a mark does to rates there are. */
export interface MarkEffect {
  /** Learners whose rate changes, of so many. */
  learners: number;
  of: number;
  /** Mean rate over everybody before and after, 0–1; null before any. */
  before: number | null;
  after: number | null;
  /** Those with the largest change, in percentage points. */
  most: { learner_id: string; name: string; before: number | null; after: number | null }[];
}

/** Every mark there is or was, in order. */
export async function allMarks({ db }: Pick<Runtime, 'db'>): Promise<MarkRow[]> {
  return listMarks(db, true);
}

const mean = (values: readonly number[]) =>
  values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;

function withChange(rows: readonly MarkRow[], code: string | null, { credit: worth, counts }: MarkInput): MarkRow[] {
  return rows.map((row) =>
    row.code === code ? { ...row, credit: Number(worth), counts: Number(counts === 'yes') } : row,
  );
}

/** What changing a mark would do to the rates of everybody, before it is kept. @throws InvalidInput, NotFound */
export async function effectOfMark(
  { db, clock }: Runtime,
  viewer: Viewer,
  code: string,
  values: Values,
): Promise<MarkEffect> {
  requireLead(viewer);
  const input = readInput(MarkInput, values);
  const kinds = await listMarks(db, true);
  const [before, after] = [kinds, withChange(kinds, code, input)].map((marks) => marks.map(asMark));
  const done: { id: number; before: number | null; after: number | null }[] = [];
  for await (const { learnerId, marks } of marksInTime(db, { viewer, segment: {} }, { now: clock.now() })) {
    const codes = marks.map(({ mark }) => mark);
    if (codes.length === 0) continue;
    done.push({ id: learnerId, before: attendanceOf(codes, before).rate, after: attendanceOf(codes, after).rate });
  }
  const changed = done.filter((one) => one.before !== one.after);
  const size = (one: (typeof done)[number]) => Math.abs((one.after ?? 0) - (one.before ?? 0));
  const most = changed.sort((a, b) => size(b) - size(a)).slice(0, 5);
  const names = new Map(
    (
      await namesOf(
        db,
        viewer,
        most.map(({ id }) => id),
      )
    ).map((row) => [row.id, row]),
  );
  return {
    learners: changed.length,
    of: done.length,
    before: mean(done.flatMap((one) => one.before ?? [])),
    after: mean(done.flatMap((one) => one.after ?? [])),
    most: most.flatMap(({ id, ...rates }) => {
      const row = names.get(id);
      return row ? [{ learner_id: row.learner_id, name: fullName(row), ...rates }] : [];
    }),
  };
}

/** Adds a mark, or changes one; leads alone. @throws InvalidInput, NotFound */
export async function saveMark(
  { db, clock }: Runtime,
  viewer: Viewer,
  code: string | null,
  values: Values,
): Promise<void> {
  requireLead(viewer);
  const input = readInput(MarkInput, values);
  await writing(db, async (trx) => {
    const rows = await listMarks(trx, true);
    const old = rows.find((row) => row.code === code);
    if (code !== null && !old) throw new NotFound('No such mark');
    const same = rows.find((row) => row.code !== code && row.label.toLowerCase() === input.label.toLowerCase());
    if (same) throw new InvalidInput([{ field: 'label', message: `is that of another mark: ${same.label}` }]);
    const values = { label: input.label, credit: Number(input.credit), counts: Number(input.counts === 'yes') };
    if (old) await changeMark(trx, old.code, values);
    else {
      const chosen =
        input.label
          .toLowerCase()
          .replaceAll(/[^\p{L}\p{N}]+/gu, '_')
          .replaceAll(/^_|_$/g, '') || 'mark';
      const taken = new Set(rows.map((row) => row.code));
      let name = chosen;
      for (let number = 2; taken.has(name); number += 1) name = `${chosen}_${number}`;
      await addMark(trx, name, values);
    }
    await noteStaleIn(trx, OF_ALL, { fromDay: 0 });
    await staleProgressIn(trx, ALL_PROGRESS, {});
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      what: old ? 'changed a mark' : 'added a mark',
      subject: input.label,
      changes: old ? { credit: [old.credit, values.credit], counts: [old.counts, values.counts] } : {},
    });
  });
}

/** The marks that a roll begins with: they stay, whatever they are called. */
const FIRST_MARKS = ['present', 'absent'];

/** Ends a mark, or has it back: it stays in the records that have it. @throws InvalidInput, NotFound */
export async function endMark({ db, clock }: Runtime, viewer: Viewer, code: string, ended: boolean): Promise<void> {
  requireLead(viewer);
  if (FIRST_MARKS.includes(code)) throw new InvalidInput([{ field: 'mark', message: 'is one that every roll needs' }]);
  await writing(db, async (trx) => {
    const mark = (await listMarks(trx, true)).find((row) => row.code === code);
    if (!mark) throw new NotFound('No such mark');
    if ((mark.ended_at !== null) === ended) return;
    await changeMark(trx, code, { ended_at: ended ? clock.now() : null });
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      what: ended ? 'ended a mark' : 'gives a mark again',
      subject: mark.label,
    });
  });
}

export class RuleInput {
  @IsNotEmpty(missing) @AsCount('per cent', 99) absent_under!: number;
  @IsNotEmpty(missing) @AsCount('per cent', 100) present_from!: number;
  @IsNotEmpty(missing) @AsCount('minutes', 600) grace_minutes!: number;
  @IsNotEmpty(missing) @AsCount('minutes', 600) late_after!: number;
}

/** Says where a course draws its lines. @throws InvalidInput, NotFound */
export async function saveRules(runtime: Runtime, viewer: Viewer, course: string, values: Values): Promise<void> {
  const { db, clock } = runtime;
  const segment = await findSegment(db, viewer, { course });
  if (!segment || !mayPlan(viewer, { course_id: segment.courseId!, group_id: null }))
    throw new NotFound('No such course');
  const { absent_under, present_from, grace_minutes, late_after } = readInput(RuleInput, values);
  if (present_from <= absent_under) {
    throw new InvalidInput([{ field: 'present_from', message: 'does not lie above what is absent' }]);
  }
  const courseId = segment.courseId!;
  const before = await rulesOf(runtime, courseId);
  const row = {
    course_id: courseId,
    absent_under: absent_under / 100,
    present_from: present_from / 100,
    grace_minutes,
    late_after,
  };
  await writing(db, async (trx) => {
    await keepSessionRule(trx, row);
    await noteStaleIn(trx, OF_COURSE, { courseId, fromDay: 0 });
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId || null,
      course_id: courseId,
      what: 'set when somebody was there',
      subject: course,
      changes: {
        absent_under: [before.absentUnder, row.absent_under],
        present_from: [before.presentFrom, row.present_from],
        grace_minutes: [before.graceMinutes, grace_minutes],
        late_after: [before.lateAfter, late_after],
      },
    });
  });
}

/** Where each course draws its lines, and whether the viewer may move them; by the course's code. */
export async function rulesByCourse(runtime: Runtime, viewer: Viewer, codes: readonly string[]) {
  const rows = await Promise.all(
    codes.map(async (code) => {
      const { courseId } = (await findSegment(runtime.db, viewer, { course: code }))!;
      const mayChange = mayPlan(viewer, { course_id: courseId!, group_id: null });
      return [code, { ...(await rulesOf(runtime, courseId!)), mayChange }] as const;
    }),
  );
  return new Map(rows);
}
