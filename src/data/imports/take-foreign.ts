/** Taking rows of another system's file: each becomes rows of ours, which are taken as ever. */
import type { CsvRow } from '@/core/imports/csv-reader';
import { keyToSettle, personInWords } from '@/core/imports/foreign/person-cells';
import type { Plan } from '@/core/imports/foreign/plan';
import type { Survey } from '@/core/imports/foreign/survey';
import { TARGET_COLUMNS, openTranslator } from '@/core/imports/foreign/translate';
import { readHeading } from '@/core/imports/heading';
import { foldName } from '@/core/sessions/match';
import { parseInstant } from '@/core/time/instant';
import { plural, sayCount } from '@/core/time/words';
import { HOUR, MINUTE, dayOf, startOfDay } from '@/core/time/zone';
import { dateInHeading } from '@/core/imports/foreign/register';
import { isoFromForeign } from '@/core/imports/foreign/when';
import { staleProgress } from '../completion/enrolment-progress';
import { prepared, type RawConnection } from '../db';
import { noteStale } from '../drift/stale';
import { noteMade } from './import-runs';
import { IMPORTERS } from './importers';
import { isFault, type ImportContext, type Importer, type Outcome } from './importer';
import { settleFile, type SettledFile } from './settle';

/** A session lasts whole quarters of an hour, where nothing says how long it was. */
const QUARTER = 15 * MINUTE;
const SESSION_COLUMNS = ['course', 'session_id', 'title', 'starts_at', 'ends_at', 'mode'] as const;

type SettleContext = Pick<ImportContext, 'timezone' | 'zone' | 'now'> & { runId: number | null };

/** When a meeting began and ended, by what its list says. */
function timesOfMeeting(
  { meeting, dates }: Plan,
  { meeting: seen }: Survey,
  timezone: string,
): [from: number, to: number] | null {
  const from = parseInstant(meeting?.startsAt ? isoFromForeign(meeting.startsAt, dates) : seen.first, timezone);
  if (from === null) return null;
  const last = parseInstant(seen.last, timezone) ?? from;
  const length = Math.max(seen.longest, last - from, QUARTER);
  return [from, from + Math.ceil(length / QUARTER) * QUARTER];
}

/** Makes the sessions of a register's columns that nobody has told of: of a day alone, where it says no time. */
function makeSessionsOfRegister(
  raw: RawConnection,
  plan: Plan,
  survey: Survey,
  settled: SettledFile,
  context: SettleContext,
): void {
  const { timezone, runId } = context;
  const heading = readHeading('sessions', SESSION_COLUMNS);
  const importer = IMPORTERS.sessions(raw, { ...context, heading, runId: runId!, sourceId: 0 });
  const onDay = prepared(
    raw,
    'SELECT 1 FROM session WHERE course_id = (SELECT id FROM course WHERE code = ?) AND starts_at >= ? AND starts_at < ? AND removed_at IS NULL LIMIT 1',
  );
  for (const text of survey.courses.keys()) {
    const course = settled.course(text);
    if (course === null) continue;
    const said =
      plan.items.length > 0
        ? plan.items.map(({ title }) => [title, dateInHeading(title) ?? ''] as const)
        : [...survey.days].map((day) => [day, day] as const);
    for (const [title, day] of said) {
      const iso = isoFromForeign(day, plan.dates);
      const at = parseInstant(iso, timezone);
      if (at === null) continue;
      const [from, to] = [dayOf(at, timezone), dayOf(at, timezone) + 1].map((day) => startOfDay(day, timezone));
      if (onDay.get(course, from, to) !== undefined) continue;
      // Nobody says how long it was: an hour where it says when it began, else the day.
      const ends = iso.length > 10 ? at + HOUR : to - MINUTE;
      const times = [at, ends].map((instant) => new Date(instant).toISOString());
      importer.take({ line: 1, cells: [course, `${course} ${times[0]}`, title, ...times, 'in_person'] });
    }
  }
  importer.endBatch?.();
}

/** Settles whom and what a file names; the session of a meeting that nobody has told of is made where that was asked for. */
export function settleForeign(raw: RawConnection, plan: Plan, survey: Survey, context: SettleContext): SettledFile {
  const { runId, timezone, zone } = context;
  const settled = settleFile(raw, plan, survey, { runId, timezone, day: dayOf(plan.madeAt, zone) });
  if (plan.kind === 'marks' && plan.create) makeSessionsOfRegister(raw, plan, survey, settled, context);
  const isMeeting = plan.kind === 'presence' && !plan.roles.includes('session') && settled.session('') === null;
  const course = isMeeting && plan.create && plan.course !== null ? settled.course(plan.course) : null;
  const times = course === null ? null : timesOfMeeting(plan, survey, timezone);
  if (course === null || times === null) return settled;
  const [startsAt, endsAt] = times;
  const [from, to] = times.map((at) => new Date(at).toISOString());
  const id = `${course} ${from}`;
  const heading = readHeading('sessions', SESSION_COLUMNS);
  const importer = IMPORTERS.sessions(raw, { ...context, heading, runId: runId!, sourceId: 0 });
  importer.take({ line: 1, cells: [course, id, plan.meeting?.title || 'Meeting', from, to, 'online'] });
  importer.endBatch?.();
  return { ...settled, session: () => ({ id, startsAt, endsAt }) };
}

/**
 * Settles whom and what a file names, and opens what takes its rows; inside a write transaction.
 *
 * @param survey of all of the file
 */
export function openForeignImporter(
  raw: RawConnection,
  plan: Plan,
  survey: Survey,
  context: Omit<ImportContext, 'heading'>,
): Importer {
  const { runId, timezone } = context;
  const settled = settleForeign(raw, plan, survey, context);
  noteMade(raw, runId, { ...settled.made });
  const translate = openTranslator(plan, settled, timezone);
  const heading = readHeading(plan.kind, TARGET_COLUMNS[plan.kind]);
  const native = IMPORTERS[plan.kind](raw, { ...context, heading, madeAt: plan.madeAt });
  const courseId = prepared(raw, 'SELECT id FROM course WHERE code = ?').pluck();
  const wait = prepared(
    raw,
    `INSERT OR IGNORE INTO waiting_row (run_id, course_id, line, person, folded, cells) VALUES (?, ?, ?, ?, ?, ?)`,
  );
  const takeAll = (row: CsvRow, rows: readonly string[][]): Outcome => {
    let [accepted, fault] = [false, null as Exclude<Outcome, string> | null];
    for (const cells of rows) {
      const outcome = native.take({ line: row.line, cells });
      if (isFault(outcome)) fault ??= outcome;
      else if (outcome === 'accepted') accepted = true;
    }
    if (fault === null) return accepted ? 'accepted' : 'duplicate';
    return accepted ? { ...fault, reason: `${fault.reason}; the rest of the row is taken` } : fault;
  };
  return {
    take(row) {
      const read = translate(row.cells);
      if (read === null) return 'duplicate';
      if (read.waits) {
        const { person, course } = read.waits;
        const words = personInWords(person);
        wait.run(
          runId,
          courseId.get(course) as number,
          row.line,
          words,
          foldName(keyToSettle(person)),
          JSON.stringify(row.cells),
        );
        return 'waiting';
      }
      const outcome = takeAll(row, read.rows);
      if (read.fault === null || isFault(outcome)) return outcome;
      const isRest = read.rows.length > 0;
      return isRest ? { ...read.fault, reason: `${read.fault.reason}; the rest of the row is taken` } : read.fault;
    },
    replay(row) {
      const read = translate(row.cells);
      for (const cells of read?.rows ?? []) native.replay?.({ line: row.line, cells });
    },
    endBatch: () => native.endBatch?.(),
    state: () => native.state?.(),
    notes: () => [
      ...(native.notes?.() ?? []),
      ...(survey.staffRows === 0
        ? []
        : [
            `${sayCount(survey.staffRows, 'row')} of whoever teaches or runs it ${plural(survey.staffRows, 'is', 'are')} left out.`,
          ]),
    ],
  };
}

/** Enrolments that were made without a roster begin on the first day that there is evidence of. */
export function moveEnrolmentsBack(raw: RawConnection, zone: string): void {
  const rows = prepared(
    raw,
    `SELECT e.id, e.enrolled_day AS day, (SELECT min(at) FROM (
         SELECT min(v.at) AS at FROM event v WHERE v.learner_id = e.learner_id AND v.course_id = e.course_id
         UNION ALL
         SELECT min(ifnull(a.submitted_at, a.graded_at)) FROM attempt a JOIN item i ON i.id = a.item_id
           WHERE a.learner_id = e.learner_id AND i.course_id = e.course_id
         UNION ALL
         SELECT min(p.first_in) FROM presence p JOIN session s ON s.id = p.session_id
           WHERE p.learner_id = e.learner_id AND s.course_id = e.course_id
         UNION ALL
         SELECT min(s.starts_at) FROM attendance a JOIN session s ON s.id = a.session_id
           WHERE a.learner_id = e.learner_id AND s.course_id = e.course_id AND s.removed_at IS NULL)) AS first
       FROM enrolment e WHERE e.provisional IS NOT NULL`,
  ).all() as { id: number; day: number; first: number | null }[];
  for (const { id, day, first } of rows) {
    const from = first === null ? day : dayOf(first, zone);
    if (from >= day) continue;
    prepared(raw, 'UPDATE enrolment SET enrolled_day = ? WHERE id = ?').run(from, id);
    noteStale(raw, 'SELECT id, @fromDay FROM enrolment WHERE id = @id', { id, fromDay: from });
    staleProgress(raw, 'SELECT id FROM enrolment WHERE id = @id', { id });
  }
}
