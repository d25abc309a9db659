/** Who would join today's list, and who would leave it, by another setting. */
import { setImmediate as otherTurn } from 'node:timers/promises';
import { combine } from '@/core/drift/bands';
import { isListed, moveOf, whyMoved, type Move, type WatchPosition } from '@/core/drift/preview';
import { partOf } from '@/core/drift/order';
import { changesBetween, modelOf, settingOn } from '@/core/drift/setting';
import type { StoredReading } from '@/core/drift/readings';
import { groupBy } from '@/core/group-by';
import { fullName } from '@/core/people/name';
import { dayOf } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { explanationsOf, readingsInView, type ReadEnrolment } from '@/data/drift/readings';
import { groupKey } from '@/data/drift/stale';
import { triedWithin } from '@/data/drift/tried';
import { namesOf } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import type { Values } from '../request/input';
import { requireLead } from '../request/lead';
import { openDriftView } from '../request/view';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';
import { readGroup } from './portions';
import { SettingNumbers, readSettingInput } from './setting-input';
import { courseToSet, heldSetting } from './settings';
import { needOrder } from './watch';

/** Somebody who would stand elsewhere. */
interface Mover {
  learnerId: string;
  name: string;
  move: Move;
  before: WatchPosition;
  after: WatchPosition;
  why: string[];
}

export interface SettingPreview {
  /** What is other than it is. */
  changes: string[];
  /** How many would be listed, and are. */
  before: number;
  after: number;
  counts: Record<Move, number>;
  /** Those who move, the ones whose drift would be worst first; no more than are shown. */
  movers: Mover[];
}

interface Moved extends Pick<Mover, 'move' | 'before' | 'after'> {
  id: number;
  courses: readonly ReadEnrolment[];
}

/** Movers of each sort that are shown. */
const SHOWN = 30;

/** Today's readings of the groups that a setting is for, as it would make them, by enrolment. */
async function readAnew(
  { db, zone }: Runtime,
  view: DriftView,
  enrolments: readonly ReadEnrolment[],
  model: ReturnType<typeof modelOf>,
): Promise<Map<number, StoredReading>> {
  const groups = [...groupBy(enrolments, groupKey).values()].map(([first]) => first);
  const found = new Map<number, StoredReading>();
  for (const { courseId, groupId } of groups) {
    const group = { courseId, groupId, fromDay: view.readingDay };
    const readings = await withRaw(db, (raw) => readGroup(raw, group, view.readingDay, zone, () => model));
    for (const reading of readings) found.set(reading.enrolmentId, reading);
    await otherTurn();
  }
  return found;
}

/**
 * Reads today by another setting without keeping anything, and says who would stand elsewhere.
 * @throws InvalidInput, NotFound
 */
export async function previewSetting(runtime: Runtime, viewer: Viewer, values: Values): Promise<SettingPreview> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const { given, setting } = readSettingInput(SettingNumbers, values);
  const courseId = await courseToSet(db, given.course);
  const view = await openDriftView(runtime, viewer);
  const today = dayOf(clock.now(), zone);
  const held = heldSetting(view.settings, courseId, today);
  const programme = courseId === null ? setting : settingOn(view.settings, today);
  const coursesWithSetting = new Set(
    view.settings.flatMap((setting) => (setting.courseId === null ? [] : [setting.courseId])),
  );
  const hasOwn = (id: number) =>
    coursesWithSetting.has(id) && (view.settings.findLast((setting) => setting.courseId === id)?.setting ?? null);
  const [order, enrolments] = await Promise.all([needOrder(runtime, view), readingsInView(db, view)]);
  const touched = enrolments.filter((enrolment) =>
    courseId === null ? !hasOwn(enrolment.courseId) : enrolment.courseId === courseId,
  );
  const anew = await readAnew(runtime, view, touched, modelOf(setting));
  const isSameWait = settingOn(view.settings, today).parts.contacted === programme.parts.contacted;
  const tried = isSameWait ? null : await triedWithin(db, view, { days: programme.parts.contacted, day: today, zone });
  const byLearner = groupBy(enrolments, (one) => one.learnerId);
  const [listed, movers]: [Record<'before' | 'after', number>, Moved[]] = [{ before: 0, after: 0 }, []];
  for (const row of order) {
    const courses = byLearner.get(row.learnerId) ?? [];
    const { score, band } = combine(
      courses.map((course) => anew.get(course.id) ?? course),
      programme.edges,
    );
    const { daysAway: gone, never } = row;
    const waits = tried === null ? row.tried : (tried.get(row.learnerId) ?? null);
    const before = { score: row.score, band: row.band, part: row.part };
    const after = {
      score,
      band,
      part: partOf({ score, band, daysAway: gone, never, tried: waits }, today, programme.parts),
    };
    if (isListed(before)) listed.before += 1;
    if (isListed(after)) listed.after += 1;
    const move = moveOf(before, after);
    if (move !== null) movers.push({ id: row.learnerId, move, before, after, courses });
  }
  movers.sort((a, b) => (b.after.score ?? -1) - (a.after.score ?? -1) || a.id - b.id);
  const counts = { joins: 0, leaves: 0, moves: 0 };
  const shown = movers.filter(({ move }) => (counts[move] += 1) <= SHOWN);
  const [names, explained] = await Promise.all([
    namesOf(
      db,
      viewer,
      shown.map(({ id }) => id),
    ),
    explanationsOf(
      db,
      shown.flatMap(({ courses }) => courses.map(({ id }) => id)),
      view.readingDay,
    ),
  ]);
  const byId = new Map(names.map((row) => [row.id, row]));
  return {
    changes: changesBetween(held, courseId === null ? setting : { ...setting, parts: held.parts }),
    ...listed,
    counts,
    movers: shown.flatMap(({ id, move, before, after, courses }) => {
      const row = byId.get(id);
      if (!row) return [];
      const beside = courses.map((course) => {
        const reasons = explained.get(course.id)?.reasons ?? [];
        return { before: reasons, after: anew.get(course.id)?.reasons ?? reasons };
      });
      const why = whyMoved(before, after, beside);
      return [{ learnerId: row.learner_id, name: fullName(row), move, before, after, why }];
    }),
  };
}
