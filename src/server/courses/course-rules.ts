/** How a course's items are done, due and graded. */
import { IsIn, IsNotEmpty, IsOptional, MaxLength, ValidateBy } from 'class-validator';
import { sayRule, ruleOf } from '@/core/completion/rule';
import { itemStatuses } from '@/core/completion/enrolment-progress';
import { itemGrades, meansOfGrades } from '@/core/grades/course-grades';
import { scoreBand, SCORE_BANDS, type ScoreBand } from '@/core/grades/bands';
import { IsDoneWhen, IsNumeral, NotNegative } from '@/core/imports/validators';
import { STAGES } from '@/core/courses/item-kinds';
import { ATTEMPT_POLICIES } from '@/core/work/attempt';
import { addAudit, type Changes } from '@/data/audit';
import { affectedBy, RULING } from '@/data/courses/item-changes';
import { countWhoTried, findItem, itemsOfCourse, itemsOfUnit, updateItem } from '@/data/courses/items';
import { meansOnGraded } from '@/data/completion/stored-progress';
import { readCourse } from '@/data/completion/course';
import { factsOfEnrolled, enrolledInView } from '@/data/completion/enrolled';
import { withRaw, writing } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { staleCourseWork } from '@/data/work/stale-work';
import { AsInstant, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { requireCourse } from './course-rights';
import { BandsInput, edgesOf } from './course-settings';

const missing = { message: 'is missing' };

const yesNo = { message: 'is not one of yes, no' };

export class ItemInput {
  @IsOptional() @IsDoneWhen() done_when?: string;
  @IsOptional() @AsInstant() due_at?: number;
  @IsOptional() @IsNumeral() @NotNegative() points?: string;
  @IsOptional() @MaxLength(200, { message: 'is too long' }) category?: string;
  @IsOptional() @IsIn(ATTEMPT_POLICIES, { message: `is not one of ${ATTEMPT_POLICIES.join(', ')}` }) policy?: string;
  @IsOptional() @IsIn(['yes', 'no'], yesNo) required?: string;
  @IsOptional() @IsIn(['yes', 'no'], yesNo) must?: string;
  @IsOptional() @IsIn([...STAGES, 'none'], { message: 'is not one of before, after, none' }) stage?: string;
  @IsOptional()
  @ValidateBy({
    name: 'isUrl',
    validator: {
      validate: (text) => typeof text === 'string' && /^https?:\/\/[^\s<>"]{1,990}$/.test(text),
      defaultMessage: () => 'is not an address that begins with https:// or http://',
    },
  })
  url?: string;
}

/** What a change of an item would do, before it is kept. */
export interface ItemEffect {
  /** Learners who have it done, and who owe it, before and after. */
  done: [before: number, after: number];
  overdue: [before: number, after: number];
  /** Learners whose mean on graded work becomes another. */
  grades: number;
  /** Who has begun or handed it in. */
  workedOn: number;
}

type ItemColumns = Record<string, string | number | null>;

/** The columns of an item that a form changes; a field that is empty takes its value away. */
function columnsOf(input: ItemInput, fields: Values): ItemColumns {
  const given = (name: keyof ItemInput) => Object.hasOwn(fields, name);
  const columns: ItemColumns = {};
  if (given('done_when')) columns.done_when = input.done_when ?? null;
  if (given('due_at')) columns.due_at = input.due_at ?? null;
  if (given('points')) columns.points = input.points === undefined ? null : Number(input.points);
  if (given('category')) columns.category = input.category ?? null;
  if (given('policy') && input.policy) columns.policy = input.policy;
  if (given('required') && input.required) columns.required = input.required === 'yes' ? 1 : 0;
  if (given('must') && input.must) columns.must = input.must === 'yes' ? 1 : 0;
  if (given('stage') && input.stage) columns.stage = input.stage === 'none' ? null : input.stage;
  if (given('url')) columns.url = input.url ?? null;
  return columns;
}

async function requireItem(runtime: Runtime, viewer: Viewer, code: string, itemId: string) {
  const courseId = await requireCourse(runtime, viewer, code);
  const item = await findItem(runtime.db, courseId, itemId);
  if (!item) throw new NotFound('No such item');
  return { courseId, item };
}

/** What changing an item would do to everybody enrolled. @throws InvalidInput, NotFound */
export async function effectOfItem(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
  itemId: string,
  values: Values,
): Promise<ItemEffect> {
  const columns = columnsOf(readInput(ItemInput, values, runtime.zone), values);
  const { item } = await requireItem(runtime, viewer, code, itemId);
  const view = await openView(runtime, viewer, { course: code });
  const known = await factsOfEnrolled(runtime.db, view, await enrolledInView(runtime.db, view));
  const next = { ...item, ...columns };
  const effect: ItemEffect = { done: [0, 0], overdue: [0, 0], grades: 0, workedOn: 0 };
  for (const { course, facts } of known) {
    const changed = {
      ...course,
      items: course.items.map((one) =>
        one.id === item.id
          ? {
              ...one,
              rule: ruleOf(one.kind, next.done_when),
              dueAt: next.due_at,
              points: next.points,
              category: next.category,
              policy: next.policy,
              required: next.required === 1,
            }
          : one,
      ),
    };
    if ((facts.items.get(item.id)?.attempts.length ?? 0) > 0) effect.workedOn += 1;
    [course, changed].forEach((of, index) => {
      const status = itemStatuses(of, facts, view.now).find((one) => one.item.id === item.id);
      if (status?.state.state === 'done') effect.done[index] += 1;
      if (status?.isOverdue) effect.overdue[index] += 1;
    });
    const [before, after] = [course, changed].map(
      (of) => meansOfGrades(of, itemGrades(of, facts, view.now), facts.attendanceRate).on_graded_work,
    );
    if (Math.abs((before ?? -1) - (after ?? -1)) > 1e-9) effect.grades += 1;
  }
  return effect;
}

/** Changes an item here: an outline that comes later leaves what was set. @throws InvalidInput, NotFound */
export async function changeItem(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
  itemId: string,
  values: Values,
): Promise<void> {
  const columns = columnsOf(readInput(ItemInput, values, runtime.zone), values);
  const { courseId, item } = await requireItem(runtime, viewer, code, itemId);
  const before = item as unknown as ItemColumns;
  const changed = Object.keys(columns).filter((name) => columns[name] !== before[name]);
  if (changed.length === 0) return;
  if (typeof columns.due_at === 'number' && item.opens_at !== null && columns.due_at < item.opens_at)
    throw new InvalidInput([{ field: 'due_at', message: 'lies before the item opens' }]);
  const byHand = JSON.stringify([...new Set([...(JSON.parse(item.by_hand) as string[]), ...changed])]);
  await writing(runtime.db, async (trx) => {
    await updateItem(trx, item.id, {
      ...Object.fromEntries(changed.map((name) => [name, columns[name]])),
      by_hand: byHand,
    });
    if (changed.some((name) => name === 'policy' || (RULING as readonly string[]).includes(name)))
      await withRaw(trx, (raw) => staleCourseWork(raw, [courseId]));
    const changes: Changes = Object.fromEntries(changed.map((name) => [name, [before[name], columns[name]]]));
    const [note] = await withRaw(trx, (raw) => affectedBy(raw, new Set([item.id])));
    await addAudit(trx, {
      at: runtime.clock.now(),
      staff_id: viewer.staffId,
      course_id: courseId,
      what: 'changed an item',
      subject: note ? `${item.title}. ${note}` : item.title,
      changes,
    });
  });
}

/** Takes an item out of its course, or has it back: what was done on it is kept, and counts for nothing meanwhile. @throws NotFound */
export async function removeItem(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
  itemId: string,
  isRemoved: boolean,
): Promise<number> {
  const { courseId, item } = await requireItem(runtime, viewer, code, itemId);
  const at = runtime.clock.now();
  return writing(runtime.db, async (trx) => {
    await updateItem(trx, item.id, { removed_at: isRemoved ? at : null });
    await withRaw(trx, (raw) => staleCourseWork(raw, [courseId]));
    const learners = await countWhoTried(trx, item.id);
    const subject = learners === 0 ? item.title : `${item.title}: ${learners} had worked on it`;
    await addAudit(trx, {
      at,
      staff_id: viewer.staffId,
      course_id: courseId,
      what: isRemoved ? 'removed an item' : 'had an item back',
      subject,
    });
    return learners;
  });
}

/** How many learners' means are in each score band under some edges. @throws InvalidInput, NotFound */
export async function bandsUnder(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
  values: Values,
): Promise<Record<ScoreBand, number>> {
  const edges = edgesOf(readInput(BandsInput, values));
  const courseId = await requireCourse(runtime, viewer, code);
  const kept = await meansOnGraded(runtime.db, courseId);
  const counts = Object.fromEntries(SCORE_BANDS.map((band) => [band, 0])) as Record<ScoreBand, number>;
  for (const mean of kept) if (edges) counts[scoreBand(mean, edges)] += 1;
  return counts;
}

/** When everything of a unit is due. */
export class UnitDueInput {
  @IsNotEmpty(missing) @MaxLength(500, { message: 'is too long' }) unit!: string;
  @IsOptional() @AsInstant() due_at?: number;
}

/** Sets the date of every item of a unit that has work in it; set here, it stays when an outline comes again. @throws InvalidInput, NotFound */
export async function saveUnitDue(runtime: Runtime, viewer: Viewer, code: string, values: Values): Promise<number> {
  const { unit, due_at = null } = readInput(UnitDueInput, values, runtime.zone);
  const courseId = await requireCourse(runtime, viewer, code);
  const items = await itemsOfUnit(runtime.db, courseId, unit);
  if (items.length === 0) throw new NotFound('No such unit');
  const early = items.find(({ opens_at }) => due_at !== null && opens_at !== null && due_at < opens_at);
  if (early) throw new InvalidInput([{ field: 'due_at', message: `lies before ${early.external_id} opens` }]);
  const due = due_at === null ? '' : new Date(due_at).toISOString();
  for (const { external_id } of items) await changeItem(runtime, viewer, code, external_id, { due_at: due });
  return items.length;
}

/** A course's items with their rules in words: no secret of anybody's who sees somebody in it. @throws NotFound */
export async function itemsWithRules(runtime: Runtime, viewer: Viewer, code: string) {
  const { courseId } = (await openView(runtime, viewer, { course: code })).segment as { courseId: number };
  const [course, rows] = await Promise.all([
    withRaw(runtime.db, (raw) => readCourse(raw, courseId)),
    itemsOfCourse(runtime.db, courseId),
  ]);
  return {
    course,
    items: rows.map((row) => ({ ...row, rule: sayRule(ruleOf(row.kind, row.done_when)) })),
  };
}
