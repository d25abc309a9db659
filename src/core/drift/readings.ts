/** A group's readings, day by day. */
import { nextBand, type PreviousReading } from './bands';
import { mergeRanges, type DayRange } from './counted-days';
import { lastTold, untoldOn, type Evidence, type EvidenceKind } from './evidence';
import { absenceFor, type Absence } from './absence';
import { assess, judgedByAnybody, readDrift, type Assessed, type OfGroup } from './score';
import { NO_WORK } from './work';
import type { EnrolmentFacts, FactsByKind, Model, Reading } from './types';
import type { Band } from './bands';

/** One enrolment of the group, with what was read of it. */
export interface Member extends Partial<FactsByKind> {
  enrolmentId: number;
  enrolledDay: number;
  /** First day on which the enrolment is no longer active; null while it is. */
  endedDay: number | null;
  /** The last reading stored before the first day asked for. */
  before: PreviousReading | null;
}

export interface CourseDates {
  start: number | null;
  end: number | null;
  breaks: readonly DayRange[];
  feedGaps: readonly DayRange[];
  /** The first day of which the log tells nothing, since it has stopped, and its last event; null or left out while it goes on. */
  silent?: { from: number; after: number } | null;
  /** What the course tells of; left out where nothing is known of that, and everything is taken to be told. */
  evidence?: Evidence;
}

/** What can be told of by the end of a day, and what cannot. */
function toldBy(
  day: number,
  { silent = null, evidence }: CourseDates,
  skipped: readonly DayRange[],
  at: number | null,
) {
  const untold = evidence ? untoldOn(evidence, day, skipped) : ALL_TOLD;
  if (silent === null || day < silent.from) return { toldTo: day, dueTo: { day, at }, untold };
  const toldTo = silent.from - 1;
  // Results may go on when the log has stopped.
  const handedIn = lastTold(evidence?.hand_ins, day);
  const dueTo =
    handedIn !== null && handedIn > toldTo ? { day: handedIn, at: null } : { day: toldTo, at: silent.after };
  return { toldTo, dueTo, untold };
}

const ALL_TOLD: ReadonlySet<EvidenceKind> = new Set();
/** Further than any day: a log that has stopped has, until more of it comes. */
const FOR_GOOD = Number.MAX_SAFE_INTEGER;

export interface StoredReading extends Reading {
  enrolmentId: number;
  day: number;
  band: Band | null;
  /** Null of whoever has finished, and where nobody's access is told. */
  absence: Absence | null;
}

/** Members who are enrolled on a day, with what was known of them by its end. */
export interface Present<M extends Member = Member> {
  member: M;
  facts: EnrolmentFacts;
}

/** A day that is not over, and the instant up to which it is known. */
export interface UnfinishedDay {
  day: number;
  at: number;
}

/** Opens a reader of who was enrolled on a day, and what was known of them then: nothing after the day. */
export function openPresence<M extends Member>(
  members: readonly M[],
  course: CourseDates,
  today: UnfinishedDay | null = null,
): (day: number) => Present<M>[] {
  const feedGaps = mergeRanges(course.feedGaps);
  const silent: DayRange[] = course.silent ? [[course.silent.from, FOR_GOOD]] : [];
  const skipped = mergeRanges([...course.breaks, ...course.feedGaps, ...silent]);
  return (day) => {
    const told = toldBy(day, course, skipped, today?.day === day ? today.at : null);
    return members
      .filter(({ enrolledDay, endedDay }) => enrolledDay <= day && (endedDay === null || endedDay > day))
      .map((member) => {
        const { enrolledDay, days = NO_DAYS, sessions = [], work = NO_WORK } = member;
        return {
          member,
          facts: {
            day,
            enrolledDay,
            courseStart: course.start,
            courseEnd: course.end,
            activeDays: upTo(days.activeDays, day),
            // Days after this one are passed over where they are counted, here and among sessions.
            efforts: days.efforts,
            sessions,
            work,
            skipped,
            feedGaps,
            ...told,
          },
        };
      });
  };
}

/** What a model's factors say of everybody who is there on a day, held against their group. */
export function assessAll(known: readonly EnrolmentFacts[], model: Model): Assessed[] {
  const group: OfGroup = Object.fromEntries(model.factors.map(({ name, ofGroup }) => [name, ofGroup?.(known)]));
  return known.map((facts) => assess(facts, group, model));
}

/**
 * Readings of all members for each day from `from` to `to`, each from facts known by then:
 * nothing after a day enters its reading. Members are read on the days they are enrolled.
 *
 * @param modelOn what a day is read by: a day stays as it was read when another model is set later
 */
export function groupReadings(
  members: readonly Member[],
  course: CourseDates,
  from: number,
  to: number,
  modelOn: (day: number) => Model,
  today: UnfinishedDay | null = null,
): StoredReading[] {
  const presentOn = openPresence(members, course, today);
  const previous = new Map(members.map((member) => [member.enrolmentId, member.before]));
  const readings: StoredReading[] = [];
  for (let day = from; day <= to; day += 1) {
    const present = presentOn(day);
    const model = modelOn(day);
    const assessed = assessAll(
      present.map(({ facts }) => facts),
      model,
    );
    const inForce = judgedByAnybody(assessed);
    for (const [index, { member, facts }] of present.entries()) {
      const { enrolmentId } = member;
      const reading = readDrift(facts, assessed[index], inForce);
      const before = previous.get(enrolmentId) ?? null;
      const band = reading.score === null ? null : nextBand(reading.score, before, model.edges);
      previous.set(enrolmentId, { score: reading.score, band });
      const absence = reading.without === 'finished' ? null : absenceFor(facts);
      readings.push({ ...reading, enrolmentId, day, band, absence });
    }
  }
  return readings;
}

const NO_DAYS: FactsByKind['days'] = { activeDays: [], efforts: [] };

function upTo(days: readonly number[], last: number): readonly number[] {
  if (days.length === 0 || days[days.length - 1] <= last) return days;
  return days.slice(
    0,
    days.findIndex((day) => day > last),
  );
}
