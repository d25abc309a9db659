/** Averages of a course or group beside each one's value: of those whom the reader sees, and of 5 or more. */
import { attendanceOf } from '@/core/sessions/attendance';
import { groupBy } from '@/core/group-by';
import type { AveragedOver } from '@/core/reports/definition';
import { MINUTE } from '@/core/time/zone';
import { enrolledInView, type Enrolled } from '@/data/completion/enrolled';
import { countUpTo, storedProgress } from '@/data/completion/stored-progress';
import { courseTimes } from '@/data/reports/minutes';
import { marksInTime } from '@/data/sessions/attendance';
import type { View } from '@/data/view';
import { FEWEST_AVERAGED, itemMeans } from '../grades/item-means';
import type { Runtime } from '../runtime';
import type { KeptFigures, RowTime } from './row';

/** What stands beside somebody's values. */
export interface Averaged {
  figures: Partial<Record<keyof KeptFigures, number>>;
  /** Mean score in per cent, by the item's number. */
  items: ReadonlyMap<number, number>;
}

const NOTHING: Averaged = { figures: {}, items: new Map() };

/** The mean of what there is; nothing of fewer than 5. */
function meanOfMany(values: readonly (number | null)[]): number | null {
  const known = values.filter((value) => value !== null);
  if (known.length < FEWEST_AVERAGED) return null;
  return known.reduce((sum, value) => sum + value, 0) / known.length;
}

/** What averages are asked for. */
export interface AveragesAsked {
  over: AveragedOver;
  figures: ReadonlySet<keyof KeptFigures>;
  items: boolean;
  period: { from?: number; to?: number };
}

/** Reads averages course by course, each once. */
export function openAverages(runtime: Runtime, view: View, asked: AveragesAsked, at: RowTime) {
  const byCourse = new Map<number, Promise<Map<number | null, Averaged>>>();
  const keyOf = ({ group_id }: Pick<Enrolled, 'group_id'>) => (asked.over === 'group' ? group_id : null);
  return async (courseId: number, groupId: number | null): Promise<Averaged> => {
    let own = byCourse.get(courseId);
    if (!own) byCourse.set(courseId, (own = ofCourse(runtime, { ...view, segment: { courseId } }, asked, at, keyOf)));
    return (await own).get(keyOf({ group_id: groupId })) ?? NOTHING;
  };
}

async function ofCourse(
  runtime: Runtime,
  view: View & { segment: { courseId: number } },
  { figures, items, period }: AveragesAsked,
  at: RowTime,
  keyOf: (one: Enrolled) => number | null,
): Promise<Map<number | null, Averaged>> {
  const { db } = runtime;
  // Of a course that has ended, those who stayed to its end; whoever withdrew is no measure of the others.
  const enrolled = (await enrolledInView(db, view, 'all')).filter(({ status }) => status !== 'withdrawn');
  const kept = await keptFigures(runtime, view, { enrolled, figures, period }, at);
  const averaged = new Map<number | null, Averaged>();
  for (const [key, members] of groupBy(enrolled, keyOf)) {
    const means = [...figures].flatMap((name) => {
      const mean = meanOfMany(members.map(({ enrolmentId }) => kept.get(enrolmentId)![name]));
      return mean === null ? [] : [[name, mean] as const];
    });
    const people = members.map(({ id }) => id);
    averaged.set(key, {
      figures: Object.fromEntries(means),
      items: items ? await itemMeans(runtime, view, view.segment.courseId, people) : new Map(),
    });
  }
  return averaged;
}

async function keptFigures(
  { db }: Runtime,
  view: View,
  {
    enrolled,
    figures,
    period,
  }: { enrolled: readonly Enrolled[]; figures: ReadonlySet<keyof KeptFigures>; period: AveragesAsked['period'] },
  { now, marks }: RowTime,
): Promise<Map<number, KeptFigures>> {
  const stored = await storedProgress(db, view, 'all');
  const times = figures.has('minutes') ? await courseTimes(db, view) : new Map<number, number>();
  const rates = new Map<number, number | null>();
  if (figures.has('attendance'))
    for await (const { learnerId, marks: own } of marksInTime(db, view, { ...period, now })) {
      const codes = own.map(({ mark }) => mark);
      rates.set(learnerId, attendanceOf(codes, marks).rate);
    }
  return new Map(
    enrolled.map(({ enrolmentId, id, status }) => {
      const theirs = stored.get(enrolmentId);
      const ms = times.get(enrolmentId);
      return [
        enrolmentId,
        {
          progress: !theirs || theirs.required === 0 ? null : theirs.done / theirs.required,
          onGraded: theirs?.onGraded ?? null,
          ofWhole: theirs?.ofWhole ?? null,
          overdue: theirs && status === 'active' ? countUpTo(theirs.openDues, now - 1) : null,
          attendance: rates.get(id) ?? null,
          minutes: ms === undefined ? null : ms / MINUTE,
        },
      ];
    }),
  );
}
