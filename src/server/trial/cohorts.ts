/** One's own finished courses, read week by week for trials and fits. */
import { setTimeout as pause } from 'node:timers/promises';
import { IsOptional, MaxLength } from 'class-validator';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { STOPPED_BEFORE_END, endOf, mergeWeeks, seeGroup } from '@/core/trial/cohort';
import type { FitCohort } from '@/core/trial/fit';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import { cohortMembers, contactDays, finishedCourses } from '@/data/trial/cohorts';
import { InvalidInput } from '../request/input';
import type { Runtime } from '../runtime';

export class CoursesInput {
  /** Codes, with commas between; every finished course where none is named. */
  @IsOptional() @MaxLength(20_000, { message: 'is too long' }) course?: string;
}

export interface LoadedCohort extends FitCohort {
  id: number;
  code: string;
  title: string;
  /** The database's ids of the learners, by their place. */
  learnerIds: readonly number[];
  /** Days of enrolment, by their place. */
  enrolledDays: readonly number[];
}

/** Others may do something when it has taken so long, in ms. */
const LONGEST_TURN = 20;

/** A step that lets others do something now and then, after what is called at each. */
export function inTurns(step: () => Promise<void>): () => Promise<void> {
  let since = performance.now();
  return async () => {
    await step();
    if (performance.now() - since < LONGEST_TURN) return;
    await pause(1);
    since = performance.now();
  };
}

/**
 * Reads finished courses: all of them, or those named.
 * @param at told how much of it is done, 0–1
 * @throws InvalidInput for one that has not ended
 */
export async function loadCohorts(
  { db, clock, zone }: Runtime,
  course: string | undefined,
  step: () => Promise<void>,
  at: (share: number) => void = () => undefined,
): Promise<LoadedCohort[]> {
  const finished = await finishedCourses(db, dayOf(clock.now(), zone));
  const wanted = course?.split(',').map((code) => code.trim());
  const unknown = wanted?.find((code) => !finished.some((one) => one.code === code));
  if (unknown !== undefined)
    throw new InvalidInput([{ field: 'course', message: `names ${unknown}, which is no course that has ended` }]);
  const chosen = finished.filter(({ code }) => wanted?.includes(code) ?? true);
  const all = 2 * chosen.reduce((sum, { groups }) => sum + groups.length, 0);
  let read = 0;
  const goOn = async () => {
    read += 1;
    at(read / all);
    await step();
  };
  const cohorts: LoadedCohort[] = [];
  for (const { id, code, title, groups } of chosen) {
    const dates = await withRaw(db, (raw) => courseDates(raw, id, zone));
    const members = [];
    for (const group of groups) {
      members.push(await withRaw(db, (raw) => cohortMembers(raw, id, group, zone)));
      await goOn();
    }
    const learners = members.flat().map((member) => endOf(member, { end: dates.end!, feedGaps: dates.feedGaps }));
    const places = new Map(learners.map((learner, place) => [learner.id, place]));
    const weeks = [];
    for (const courseMember of members) {
      weeks.push(seeGroup(courseMember, dates, (enrolmentId) => places.get(enrolmentId)!));
      await goOn();
    }
    const contacts = await withRaw(db, (raw) => contactDays(raw, id, zone));
    cohorts.push({
      id,
      code,
      title,
      learnerIds: members.flat().map(({ learnerId }) => learnerId),
      enrolledDays: members.flat().map(({ enrolledDay }) => enrolledDay),
      start: dates.start!,
      end: dates.end!,
      learners,
      weeks: mergeWeeks(weeks),
      groups: members.flatMap((own, index) => own.map(() => groups[index])),
      contacts: learners.map((learner) => contacts.get(learner.id) ?? []),
    });
  }
  return cohorts;
}

/** What is odd about the past of some courses, in words: their log ends long before they do. */
export function oddities(cohorts: readonly LoadedCohort[]): string[] {
  return cohorts.flatMap(({ code, end, learners }) => {
    const last = Math.max(...learners.map(({ lastDay }) => lastDay ?? -Infinity));
    if (!Number.isFinite(last) || end - last < STOPPED_BEFORE_END || learners.some(({ left }) => !left)) return [];
    return [
      `${code}: nothing stands in its log after ${sayDay(last)}, so that everybody counts as having left. If that is a gap in the feed, name it under Sources.`,
    ];
  });
}
