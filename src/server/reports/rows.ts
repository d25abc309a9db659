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
import { attemptsShown } from '@/data/completion/facts';
import { contactsOf } from '@/data/contact/contacts';
import { withRaw } from '@/data/db';
import { enrolmentsOf, type EnrolmentRow } from '@/data/people/enrolments';
import { learnersById, type LearnerRow } from '@/data/people/learners';
import { accessInPeriod } from '@/data/reports/access-in-period';
import { marksInTime } from '@/data/sessions/attendance';
import { paceOfRow, progressRow, skippedDays } from '../completion/progress-list';
import { showContact } from '../people/people';
import type { Runtime } from '../runtime';
import { recordedSessions, type RecordedSession } from '../sessions/records';
import { openAverages, type Averaged } from './averages';
import { owes } from './columns/enrolment';
import type { OpenReport } from './open';
import type { AccessTotals, InCourse, ReportRow, RowTime } from './row';

/** Learners read at a time. */
const AT_ONCE = 100;
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
  for (let start = 0; start < ids.length; start += AT_ONCE) {
    const rows = await readRows(runtime, report, ids.slice(start, start + AT_ONCE), skipped);
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
  const { db, zone } = runtime;
  const { view, needs, period, at, status } = report;
  const known = new Map<number, Known>();
  if (needs.has('work')) {
    const enrolled = await enrolledInView(db, view, status, ids);
    for (const one of await factsOfEnrolled(db, view, enrolled)) known.set(one.enrolled.enrolmentId, one);
    for (const courseId of new Set(enrolments.map(({ course_id }) => course_id)))
      if (!skipped.has(courseId)) skipped.set(courseId, await skippedDays(runtime, courseId));
  }
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
      const own = known.get(enrolment.id) ?? null;
      return [
        enrolment.id,
        {
          ...workOf(own, at, skipped.get(enrolment.course_id) ?? []),
          enrolment,
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

  function workOf(own: Known | null, time: RowTime, days: readonly DayRange[]) {
    if (own === null) return { known: null, progress: null, grades: [], means: null, passMark: 0, pace: () => [] };
    const { course, facts } = own;
    const grades = itemGrades(course, facts, time.now);
    const progress = progressRow(own, { now: time.now, zone, skipped: days });
    return {
      known: own,
      progress,
      grades,
      means: meansOfGrades(course, grades, facts.attendanceRate),
      passMark: passMarkOf(course),
      pace: () => paceOfRow(progress, course, time),
    };
  }
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
  const isOwed = owes(inCourse!, at);
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
