/** The rows of a report, some learners at a time: however many there are, few are held. */
import { setImmediate as breathe } from 'node:timers/promises';
import type { ItemStatus } from '@/core/completion/enrolment-progress';
import type { DayRange } from '@/core/drift/counted-days';
import { itemGrades, meansOfGrades } from '@/core/grades/course-grades';
import { groupBy } from '@/core/group-by';
import { attendanceOf } from '@/core/sessions/attendance';
import { dayOf } from '@/core/time/zone';
import { firstHandIn } from '@/core/work/attempt';
import { passMarkOf } from '@/data/completion/course';
import { enrolledInView, factsOfEnrolled, type Known } from '@/data/completion/enrolled';
import { countUpTo, staleEnrolments, storedProgress } from '@/data/completion/stored-progress';
import { attemptsShown } from '@/data/completion/facts';
import { passMarks } from '@/data/courses/courses';
import { contactsOf } from '@/data/contact/contacts';
import { withRaw } from '@/data/db';
import { enrolmentsOf, type EnrolmentRow } from '@/data/people/enrolments';
import { learnersById, type LearnerRow } from '@/data/people/learners';
import { accessInPeriod } from '@/data/reports/access-in-period';
import { marksInTime } from '@/data/sessions/attendance';
import { paceOfRow, progressRow, skippedDays, statusOfStored } from '../completion/progress-list';
import { showContact } from '../people/people';
import type { Runtime } from '../runtime';
import { recordedSessions, type RecordedSession } from '../sessions/records';
import { openAverages, type Averaged } from './averages';
import { canBeOverdue } from './columns/of-enrolment';
import type { OpenReport } from './open';
import type { AccessTotals, InCourse, ReportRow, RowTime, WhereTheyStand } from './row';

/** Learners read at a time: fewer, where each has a row for every item, so that little is held and it is soon let go. */
const AT_ONCE = { learner: 50, enrolment: 26, item: 5, session: 10 } as const;
/** Contacts of one learner at most: of more, the newest. */
const CONTACTS = 500;

/** A row with the averages beside it. */
export interface AveragedRow {
  row: ReportRow;
  averaged: Averaged | null;
}

/**
 * The rows of an open report in its order, by pieces: each piece whole learners, none of them split.
 *
 * @param first where to begin among the report's learners, and how many of them to read
 */
export async function* reportRows(
  runtime: Runtime,
  report: OpenReport,
  { from = 0, learners = report.ids.length }: { from?: number; learners?: number } = {},
): AsyncGenerator<AveragedRow[]> {
  const ids = report.ids.slice(from, from + learners);
  const skipped = new Map<number, DayRange[]>();
  const averages = averagesOf(runtime, report);
  const atOnce = AT_ONCE[report.definition.per];
  for (let start = 0; start < ids.length; start += atOnce) {
    const rows = await readRows(runtime, report, ids.slice(start, start + atOnce), skipped);
    const averaged: AveragedRow[] = [];
    for (const row of rows) {
      const enrolment = row.inCourse?.enrolment;
      const beside = averages && enrolment ? await averages(enrolment.course_id, enrolment.group_id) : null;
      averaged.push({ row: beside ? { ...row, itemAverages: beside.items } : row, averaged: beside });
    }
    yield averaged;
    await breathe();
  }
}

function averagesOf(runtime: Runtime, report: OpenReport) {
  const { definition, averaged, needs, columns, at, view, period } = report;
  const items =
    needs.has('averages') || (definition.averages !== undefined && columns.some(({ name }) => name === 'score_list'));
  if (averaged.size === 0 && !items) return null;
  const asked = { over: definition.averages ?? 'course', figures: averaged, items, period } as const;
  return openAverages(runtime, view, asked, at);
}

async function readRows(
  runtime: Runtime,
  report: OpenReport,
  ids: readonly number[],
  skipped: Map<number, DayRange[]>,
): Promise<ReportRow[]> {
  const { db } = runtime;
  const { view, needs, definition, status } = report;
  const byId = new Map((await learnersById(db, view, ids, status)).map((row) => [row.id, row]));
  const learners = ids.flatMap((id) => byId.get(id) ?? []);
  const [access, contacts] = await Promise.all([accessOf(runtime, report, ids), contactsOfAll(runtime, report, ids)]);
  const base = (learner: LearnerRow): Omit<ReportRow, 'access'> => ({
    learner,
    inCourse: null,
    item: null,
    session: null,
    contacts: contacts.get(learner.id) ?? [],
    itemAverages: new Map(),
  });
  if (definition.per === 'learner') {
    const rows = learners.map((learner) => ({ ...base(learner), access: access(learner.id, null) }));
    return definition.only === 'contacted' ? rows.filter((row) => row.contacts.length > 0) : rows;
  }
  const enrolments = groupBy(await enrolmentsOf(db, view, ids, status), (row) => row.learner_id);
  const inCourses = await readCourses(runtime, report, ids, [...enrolments.values()].flat(), skipped);
  return learners.flatMap((learner) =>
    [...(enrolments.get(learner.id) ?? [])]
      .sort((a, b) => (a.course < b.course ? -1 : 1))
      .flatMap((enrolment): ReportRow[] => {
        const inCourse = inCourses.get(enrolment.id)!;
        const row = {
          ...base(learner),
          inCourse,
          access: needs.has('access') ? access(learner.id, enrolment.course_id) : null,
        };
        if (definition.per === 'item') return itemRows(row, report);
        if (definition.per === 'session') return sessionRows(row, report);
        return [row];
      }),
  );
}

/** What some learners did in the report's days, in one course or in all. */
async function accessOf(runtime: Runtime, { needs, view, period, at }: OpenReport, ids: readonly number[]) {
  const none: AccessTotals = { ms: 0, events: 0, days: 0 };
  if (!needs.has('access')) return () => null;
  const fromDay = period.from === undefined ? 0 : dayOf(period.from, at.zone);
  const toDay = period.to === undefined ? Number.MAX_SAFE_INTEGER : dayOf(period.to - 1, at.zone) + 1;
  const rows = groupBy(await accessInPeriod(runtime.db, view, ids, { fromDay, toDay }), (row) => row.learner_id);
  return (learnerId: number, courseId: number | null): AccessTotals =>
    (rows.get(learnerId) ?? [])
      .filter(({ course_id }) => courseId === null || course_id === courseId)
      .reduce(
        (sum, { ms, events, days }) => ({ ms: sum.ms + ms, events: sum.events + events, days: sum.days + days }),
        none,
      );
}

async function contactsOfAll(runtime: Runtime, { needs, view, period }: OpenReport, ids: readonly number[]) {
  if (!needs.has('contacts')) return new Map<number, never[]>();
  const until = Math.min(view.now, (period.to ?? Number.MAX_SAFE_INTEGER) - 1);
  const rows = await contactsOf(runtime.db, view.viewer, ids, { each: CONTACTS, until });
  const inPeriod = rows.filter(({ at }) => period.from === undefined || at >= period.from);
  const shown = [...groupBy(inPeriod, (row) => row.learner_id)].map(
    ([id, own]) => [id, own.map((row) => showContact(row, view, runtime.zone))] as const,
  );
  return new Map(shown);
}

/** What is known of some enrolments, as far as columns need it, by the enrolment. */
async function readCourses(
  runtime: Runtime,
  report: OpenReport,
  ids: readonly number[],
  enrolments: readonly EnrolmentRow[],
  skipped: Map<number, DayRange[]>,
): Promise<Map<number, InCourse>> {
  const { db } = runtime;
  const { view, needs, period, at } = report;
  const { works, standings } = await standingsOf(runtime, report, ids, enrolments, skipped);
  const marks = new Map<number, Map<number, string[]>>();
  if (needs.has('attendance'))
    for await (const { learnerId, marks: own } of marksInTime(db, view, {
      ...period,
      now: view.now,
      learnerIds: ids,
    })) {
      const byCourse = groupBy(own, ({ course_id }) => course_id);
      marks.set(learnerId, new Map([...byCourse].map(([course, list]) => [course, list.map(({ mark }) => mark)])));
    }
  const sessions = needs.has('sessions')
    ? await recordedSessions(runtime, view.viewer, ids, {
        from: period.from ?? 0,
        to: period.to ?? view.now + 1,
        now: view.now,
        courseId: view.segment.courseId,
      })
    : new Map<number, RecordedSession[]>();
  const attempts = needs.has('feedback')
    ? await withRaw(
        db,
        (raw) =>
          new Map(
            enrolments.map(({ id, course_id, learner_id }) => [
              id,
              attemptsShown(raw, view.viewer, course_id, learner_id, view.now),
            ]),
          ),
      )
    : null;
  return new Map(
    enrolments.map((enrolment): [number, InCourse] => {
      return [
        enrolment.id,
        {
          ...(works.get(enrolment.id) ?? NOTHING_KNOWN),
          enrolment,
          standing: standings.get(enrolment.id) ?? null,
          attendance: needs.has('attendance')
            ? attendanceOf(marks.get(enrolment.learner_id)?.get(enrolment.course_id) ?? [], at.marks)
            : null,
          sessions: (sessions.get(enrolment.learner_id) ?? []).filter(
            ({ course_id }) => course_id === enrolment.course_id,
          ),
          attempts: attempts?.get(enrolment.id) ?? new Map(),
        },
      ];
    }),
  );
}

/**
 * What is known of some enrolments: everything where columns need it, else what is kept of where they stand. Where
 * something has changed since that was kept, it is worked out.
 */
async function standingsOf(
  runtime: Runtime,
  { view, needs, status, at }: OpenReport,
  ids: readonly number[],
  enrolments: readonly EnrolmentRow[],
  skipped: Map<number, DayRange[]>,
): Promise<{ works: Map<number, Work>; standings: Map<number, WhereTheyStand> }> {
  const { db, zone } = runtime;
  const works = new Map<number, Work>();
  const standings = new Map<number, WhereTheyStand>();
  if (!needs.has('standing') && !needs.has('work')) return { works, standings };
  const stored = needs.has('work') ? null : await storedProgress(db, view, status, ids);
  const changed = stored === null ? null : await staleEnrolments(db);
  const isKept = ({ id }: { id: number }) => stored !== null && stored.has(id) && !changed!.has(id);
  const marks = stored === null ? null : await passMarks(db);
  const today = dayOf(at.now, zone);
  for (const enrolment of enrolments.filter(isKept)) {
    const one = stored!.get(enrolment.id)!;
    standings.set(enrolment.id, {
      ...one,
      ...statusOfStored(one, marks!.get(one.courseId) ?? null, today),
      overdue: canBeOverdue({ enrolment }, at) ? countUpTo(one.openDues, at.now - 1) : 0,
    });
  }
  const rest = new Map(enrolments.filter((one) => !isKept(one)).map((one) => [one.id, one]));
  if (rest.size === 0) return { works, standings };
  const people = [...new Set([...rest.values()].map((one) => one.learner_id))];
  const enrolled = (await enrolledInView(db, view, status, people)).filter(({ enrolmentId }) => rest.has(enrolmentId));
  for (const one of await factsOfEnrolled(db, view, enrolled)) {
    const { course_id, enrolmentId } = one.enrolled;
    if (!skipped.has(course_id)) skipped.set(course_id, await skippedDays(runtime, course_id));
    const work = workOf(one, at, skipped.get(course_id)!);
    works.set(enrolmentId, work);
    const { progress, grades, means } = work;
    const isOwing = canBeOverdue({ enrolment: rest.get(enrolmentId)! }, at);
    standings.set(enrolmentId, {
      ...progress,
      behind: progress.pace.behind,
      onGraded: means.on_graded_work,
      ofWhole: means.of_whole_course,
      overdue: isOwing ? grades.filter((grade) => grade.isOverdue).length : 0,
    });
  }
  return { works, standings };
}

type Work = ReturnType<typeof workOf>;
const NOTHING_KNOWN = { known: null, progress: null, grades: [], means: null, passMark: 0, pace: () => [] };

/** What somebody's facts come to. */
function workOf(own: Known, { now, zone }: RowTime, skipped: readonly DayRange[]) {
  const { course, facts } = own;
  const grades = itemGrades(course, facts, now);
  const progress = progressRow(own, { now, zone, skipped });
  return {
    known: own,
    progress,
    grades,
    means: meansOfGrades(course, grades, facts.attendanceRate),
    passMark: passMarkOf(course),
    pace: () => paceOfRow(progress, course, { now, zone }),
  };
}

/** A row for each item of a course that the report is about. */
function itemRows(row: ReportRow, { definition, period, at }: OpenReport): ReportRow[] {
  const { inCourse } = row;
  const items = new Set(definition.items ?? []);
  const grades = new Map(inCourse!.grades.map((grade) => [grade.item.id, grade]));
  const isWanted = ({ item, dueAt }: ItemStatus) =>
    (items.size === 0 || items.has(item.externalId) || (item.category !== null && items.has(item.category))) &&
    (period.from === undefined || (dueAt !== null && dueAt >= period.from)) &&
    (period.to === undefined || (dueAt !== null && dueAt < period.to));
  const isOwed = canBeOverdue(inCourse!, at);
  const isLate = ({ facts, dueAt }: ItemStatus) => dueAt !== null && (firstHandIn(facts.attempts) ?? 0) > dueAt;
  const isIn = (status: ItemStatus): boolean => {
    switch (definition.only) {
      case 'overdue':
        return isOwed && status.isOverdue;
      case 'missing_or_late':
        return isOwed && status.dueState !== null && (status.isOverdue || isLate(status));
      case 'due':
        return status.dueState !== null;
      case 'scored':
        return (grades.get(status.item.id)?.counting ?? null) !== null;
      case 'required':
        return status.item.required;
      default:
        return true;
    }
  };
  return inCourse!
    .progress!.statuses.filter((status) => isWanted(status) && isIn(status))
    .map((status) => ({ ...row, item: { status, grade: grades.get(status.item.id) ?? null } }));
}

function sessionRows(row: ReportRow, { definition, at }: OpenReport): ReportRow[] {
  const isIn = ({ cancelled, ends_at, outcome }: RecordedSession): boolean => {
    if (definition.only === 'held') return cancelled === 0 && ends_at <= at.now;
    return definition.only === 'missed' ? outcome === 'missed' : true;
  };
  return row.inCourse!.sessions.filter(isIn).map((session) => ({ ...row, session }));
}

/** A row's values under the report's heads. */
export function valuesOf({ heads, at }: OpenReport, { row, averaged }: AveragedRow): unknown[] {
  return heads.map((head) => head.of(row, at, averaged));
}
