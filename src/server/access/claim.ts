/** The claim check: "says they worked last week". */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { claimVerdict, type Verdict } from '@/core/access/claim';
import { mergeRanges } from '@/core/drift/counted-days';
import { dayOf, startOfDay } from '@/core/time/zone';
import { handIns, itemsTouched, type ClaimedHandIn, type DifferingHandIn, type TouchedItem } from '@/data/access/claim';
import { courseFeedGaps } from '@/data/feed/feed-gaps';
import { enrolmentsOf } from '@/data/people/enrolments';
import { visitsOfLearners, type VisitRow } from '@/data/access/visits';
import type { DriftView } from '@/data/view';
import { AsDay, InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { recordedSessions, type RecordedSession } from '../sessions/records';

const missing = { message: 'is missing' };

class ClaimInput {
  @IsNotEmpty(missing) @AsDay() from!: number;
  @IsNotEmpty(missing) @AsDay() to!: number;
  /** A course's code; all in view when left out. */
  @IsOptional() @MaxLength(200, { message: 'is too long' }) course?: string;
}

export interface Claim {
  from: number;
  to: number;
  verdict: Verdict;
  visits: VisitRow[];
  items: TouchedItem[];
  handIns: ClaimedHandIn[];
  /** What the log says was handed in, and results do not. */
  differing: DifferingHandIn[];
  sessions: RecordedSession[];
}

/** Longest period looked at, in days. */
const LONGEST = 400;

/**
 * What a learner in view did from one day to another, both included, and the verdict.
 * @throws InvalidInput for a date that is none, or a period that ends before it starts
 */
export async function checkClaim(
  { db, zone }: Runtime,
  view: DriftView,
  learnerId: number,
  values: Values,
): Promise<Claim> {
  const input = readInput(ClaimInput, values);
  const { from, to } = input;
  if (to < from) throw new InvalidInput([{ field: 'to', message: 'lies before from' }]);
  if (to - from > LONGEST)
    throw new InvalidInput([{ field: 'to', message: `lies more than ${LONGEST} days after from` }]);
  const enrolments = await enrolmentsOf(db, { ...view, asOf: null }, [learnerId]);
  const course = enrolments.find((enrolment) => enrolment.course === input.course);
  if (input.course && !course)
    throw new InvalidInput([{ field: 'course', message: `is none of theirs: ${input.course}` }]);
  const segment = course ? { courseId: course.course_id } : {};
  const [start, end] = [startOfDay(from, zone), startOfDay(to + 1, zone)];
  const courseIds = course ? [course.course_id] : enrolments.map((enrolment) => enrolment.course_id);
  const [visits, items, handed, gaps, recorded] = await Promise.all([
    visitsOfLearners(db, view.viewer, segment, [learnerId], { from: start, to: end }),
    itemsTouched(db, view.viewer, segment, learnerId, { from, to }),
    handIns(db, view.viewer, segment, learnerId, start, end),
    courseFeedGaps(db, courseIds),
    recordedSessions({ db, zone }, view.viewer, [learnerId], {
      from: start,
      to: Math.min(end, view.now),
      now: view.now,
      courseId: segment.courseId,
    }),
  ]);
  const sessions = recorded.get(learnerId) ?? [];
  const inPeriod = gaps
    .filter((gap) => gap.from_at < end && gap.to_at > start)
    .map((gap): [number, number] => [
      Math.max(from, dayOf(gap.from_at, zone)),
      Math.min(to, dayOf(Math.max(gap.from_at, gap.to_at - 1), zone)),
    ]);
  const verdict = claimVerdict(
    {
      visits,
      items: items.length,
      handIns: handed.handedIn.map((one) => one.item),
      differing: handed.differing.map(({ item, at }) => ({ item, day: dayOf(at, zone) })),
      sessions: sessions
        .filter((session) => session.cancelled === 0)
        .map(({ says, outcome }) => ({ says, isAttended: outcome === 'attended' })),
      gaps: mergeRanges(inPeriod),
    },
    zone,
  );
  return { from, to, verdict, visits, items, handIns: handed.handedIn, differing: handed.differing, sessions };
}
