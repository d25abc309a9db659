/** Taking roster, outline and staff rows: a row that is there again updates. */
import type { CsvRow } from '@/core/imports/csv-reader';
import { checkRow } from '@/core/imports/heading';
import { isSkipped, parseInstant } from '@/core/time/instant';
import { dateOfDay, dayFromDate, dayOf } from '@/core/time/zone';
import type { RawConnection } from '../db';
import { FROM_THE_BEGINNING, OF_COURSE, markStale } from '../drift/stale';
import { reassignStaffEvents } from '../access/take-access-log';
import {
  alikeFault,
  findOrAdd,
  idFinder,
  openAlike,
  type OpenTaker,
  type Outcome,
  type TakeContext,
  type Taker,
} from '../imports/taker';

type Values = Record<string, string>;
type Columns = Record<string, string | number | null>;

const fault = (field: string, reason: string): Outcome => ({ field, reason });

/** A day number, null for an empty cell, undefined when the file has no such column. */
function day(value: string | undefined): number | null | undefined {
  return value === undefined ? undefined : value === '' ? null : dayFromDate(value);
}

function orNull(value: string | undefined): string | null | undefined {
  return value === '' ? null : value;
}

/** Leaves out columns that the file does not have: they stay as they are. */
function given(columns: Record<string, string | number | null | undefined>): Columns {
  return Object.fromEntries(Object.entries(columns).filter(([, value]) => value !== undefined)) as Columns;
}

/** Inserts or updates a row found by `where`; tells whether anything changed. */
function upsert(raw: RawConnection, table: string, where: Columns, columns: Columns, defaults: Columns = {}) {
  const keys = Object.keys(where);
  const stored = raw
    .prepare(`SELECT * FROM ${table} WHERE ${keys.map((key) => `${key} = ?`).join(' AND ')}`)
    .get(...Object.values(where)) as (Columns & { id: number }) | undefined;
  if (!stored) {
    const row = { ...defaults, ...columns, ...where };
    const names = Object.keys(row);
    const { lastInsertRowid } = raw
      .prepare(`INSERT INTO ${table} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`)
      .run(...Object.values(row));
    return { id: Number(lastInsertRowid), changed: true };
  }
  const changes = Object.entries(columns).filter(([name, value]) => stored[name] !== value);
  if (changes.length > 0) {
    raw
      .prepare(`UPDATE ${table} SET ${changes.map(([name]) => `${name} = ?`).join(', ')} WHERE id = ?`)
      .run(...changes.map(([, value]) => value), stored.id);
  }
  return { id: stored.id, changed: changes.length > 0 };
}

/** A taker for rows that are checked cell by cell first. */
function checked(context: TakeContext, take: (values: Values) => Outcome, endBatch?: () => void): Taker {
  return {
    take(row: CsvRow) {
      const read = checkRow(context.heading, row.cells);
      return read.fault ?? take(read.values!);
    },
    endBatch,
  };
}

interface StoredDays {
  enrolled_day: number;
  ended_day: number | null;
  status: string;
}

/** Who is in a course, or when it runs, has changed: all of its drift is read anew. */
function staleCourses(raw: RawConnection, courses: Set<number>): void {
  for (const courseId of courses) markStale(raw, OF_COURSE, { courseId, fromDay: FROM_THE_BEGINNING });
  courses.clear();
}

export const openRosterTaker: OpenTaker = (raw, context) => {
  const today = dayOf(context.now, context.zone);
  const courseId = idFinder(
    raw,
    'SELECT id FROM course WHERE code = ?1',
    'INSERT INTO course (code, title) VALUES (?1, ?1)',
  );
  const groupId = idFinder(
    raw,
    'SELECT id FROM course_group WHERE course_id = ?1 AND name = ?2',
    'INSERT INTO course_group (course_id, name) VALUES (?1, ?2)',
  );
  const changedCourses = new Set<number>();
  const keptRecord = raw.prepare('SELECT ifnull(merged_into, id) FROM learner WHERE id = ?').pluck();
  const seen = raw.prepare('UPDATE enrolment SET seen_run = ? WHERE id = ?');
  const alike = {
    learner: openAlike(raw, 'SELECT 0, external_id FROM learner'),
    course: openAlike(raw, 'SELECT 0, code FROM course'),
    group: openAlike(raw, 'SELECT course_id, name FROM course_group'),
    organisation: openAlike(raw, 'SELECT 0, name FROM organisation'),
  };
  const days = raw.prepare(
    `SELECT enrolled_day, ended_day, status FROM enrolment WHERE course_id = (SELECT id FROM course WHERE code = ?)
     AND learner_id = (SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?)`,
  );
  let people = false;
  return checked(
    context,
    (row) => {
      const enrolled = day(row.enrolled_on);
      const ended = day(row.ended_on);
      // What the file leaves out is as it was stored.
      const before = days.get(row.course, row.learner_id) as StoredDays | undefined;
      const begins = enrolled ?? before?.enrolled_day ?? (ended ? today : null);
      const isActive = (row.status || before?.status || 'active') === 'active';
      const ends = ended ?? (isActive ? null : (before?.ended_day ?? null));
      if (begins && ends && ends < begins) {
        return fault(
          ended ? 'ended_on' : 'enrolled_on',
          `the enrolment would end on ${dateOfDay(ends)}, before it begins on ${dateOfDay(begins)}`,
        );
      }
      if (ended && isActive) return fault('ended_on', 'is set although the status is active');
      const misspelt =
        alikeFault('learner_id', alike.learner(row.learner_id)) ??
        alikeFault('course', alike.course(row.course)) ??
        (row.organisation ? alikeFault('organisation', alike.organisation(row.organisation)) : null);
      if (misspelt) return misspelt;
      const course = courseId(row.course);
      const misspeltGroup = row.group ? alikeFault('group', alike.group(row.group, course)) : null;
      if (misspeltGroup) return misspeltGroup;
      const learner = upsert(
        raw,
        'learner',
        { external_id: row.learner_id },
        given({
          given_name: row.given_name,
          family_name: row.family_name,
          email: orNull(row.email),
          phone: orNull(row.phone),
          organisation_id:
            row.organisation === undefined
              ? undefined
              : row.organisation === ''
                ? null
                : findOrAdd(raw, 'organisation', row.organisation),
        }),
      );
      const isOver = row.status === 'withdrawn' || row.status === 'completed';
      const enrolment = upsert(
        raw,
        'enrolment',
        // A record that was merged into another is enrolled as that one.
        { learner_id: keptRecord.get(learner.id) as number, course_id: course },
        given({
          group_id: row.group === undefined ? undefined : row.group === '' ? null : groupId(course, row.group),
          status: row.status || undefined,
          enrolled_day: enrolled ?? undefined,
          // An end that no file dates keeps the day it was first seen.
          ended_day: ended ?? (isOver ? undefined : row.status === 'active' ? null : undefined),
        }),
        { status: 'active', enrolled_day: today, ...(isOver ? { ended_day: today } : {}) },
      );
      seen.run(context.runId, enrolment.id);
      if (enrolment.changed) changedCourses.add(course);
      people ||= learner.changed;
      return learner.changed || enrolment.changed ? 'accepted' : 'duplicate';
    },
    () => {
      staleCourses(raw, changedCourses);
      if (people) reassignStaffEvents(raw, context.zone);
      people = false;
    },
  );
};

interface StoredCourse {
  id: number;
  starts_day: number | null;
  ends_day: number | null;
}

interface StoredItem {
  opens_at: number | null;
  due_at: number | null;
}

export const openOutlineTaker: OpenTaker = (raw, context) => {
  const changedCourses = new Set<number>();
  const positions = new Map<number, number>();
  const unitId = idFinder(
    raw,
    'SELECT id FROM unit WHERE course_id = ?1 AND title = ?2',
    'INSERT INTO unit (course_id, title, position) SELECT ?1, ?2, ifnull(max(position), 0) + 1 FROM unit WHERE course_id = ?1',
  );
  const instant = (value: string | undefined) =>
    value === undefined ? undefined : value === '' ? null : parseInstant(value, context.timezone);
  const alike = {
    course: openAlike(raw, 'SELECT 0, code FROM course'),
    item: openAlike(raw, 'SELECT course_id, external_id FROM item'),
  };
  const courseBefore = raw.prepare('SELECT id, starts_day, ends_day FROM course WHERE code = ?');
  const itemBefore = raw.prepare('SELECT opens_at, due_at FROM item WHERE course_id = ? AND external_id = ?');
  const numeral = (value: string | undefined) =>
    value === undefined ? undefined : value === '' ? null : Number(value);
  return checked(
    context,
    (row) => {
      for (const field of ['opens_at', 'due_at', 'changed_at'] as const) {
        if (row[field] && isSkipped(row[field], context.timezone))
          return fault(field, `is none in ${context.timezone}: the clocks left it out`);
      }
      const misspelt = alikeFault('course', alike.course(row.course));
      if (misspelt) return misspelt;
      // What the file leaves out is as it was stored.
      const stored = courseBefore.get(row.course) as StoredCourse | undefined;
      const starts = day(row.starts_on);
      const ends = day(row.ends_on);
      const [begin, end] = [starts ?? stored?.starts_day, ends ?? stored?.ends_day];
      if (begin && end && end < begin) {
        return fault(
          ends ? 'ends_on' : 'starts_on',
          `the course would end on ${dateOfDay(end)}, before it begins on ${dateOfDay(begin)}`,
        );
      }
      const opens = instant(row.opens_at);
      const due = instant(row.due_at);
      const item = stored && (itemBefore.get(stored.id, row.item_id) as StoredItem | undefined);
      const [opening, deadline] = [
        opens === undefined ? item?.opens_at : opens,
        due === undefined ? item?.due_at : due,
      ];
      if (opening && deadline && deadline < opening) {
        return fault(due ? 'due_at' : 'opens_at', 'the item would be due before it opens');
      }
      const course = upsert(
        raw,
        'course',
        { code: row.course },
        given({ title: row.course_title || undefined, starts_day: starts ?? undefined, ends_day: ends ?? undefined }),
        { title: row.course },
      );
      const misspeltItem = alikeFault('item_id', alike.item(row.item_id, course.id));
      if (misspeltItem) return misspeltItem;
      const position = (positions.get(course.id) ?? 0) + 1;
      positions.set(course.id, position);
      const taken = upsert(
        raw,
        'item',
        { course_id: course.id, external_id: row.item_id },
        given({
          unit_id: row.unit === undefined ? undefined : row.unit === '' ? null : unitId(course.id, row.unit),
          title: row.item,
          kind: row.kind,
          required: row.required === undefined ? undefined : row.required === 'yes' ? 1 : 0,
          opens_at: opens,
          due_at: due,
          points: numeral(row.points),
          category: orNull(row.category),
          weight: numeral(row.weight),
          changed_at: instant(row.changed_at),
          done_when: orNull(row.done_when),
          position,
        }),
        { required: 0 },
      );
      if (course.changed) changedCourses.add(course.id);
      return course.changed || taken.changed ? 'accepted' : 'duplicate';
    },
    () => {
      staleCourses(raw, changedCourses);
    },
  );
};

const SCOPE_TARGETS = {
  organisation: { column: 'organisation_id', sql: 'SELECT id FROM organisation WHERE name = ?' },
  course: { column: 'course_id', sql: 'SELECT id FROM course WHERE code = ?' },
  learner: { column: 'learner_id', sql: 'SELECT id FROM learner WHERE external_id = ?' },
} as const;

export const openStaffTaker: OpenTaker = (raw, context) => {
  const targets = Object.fromEntries(
    Object.entries(SCOPE_TARGETS).map(([kind, target]) => [kind, raw.prepare(target.sql).pluck()]),
  );
  // A group is named with its course: "DRY/A".
  const group = raw
    .prepare('SELECT g.id FROM course_group g JOIN course c ON c.id = g.course_id WHERE c.code || ? || g.name = ?')
    .pluck();
  const alike = openAlike(raw, 'SELECT 0, external_id FROM staff');
  const other = raw.prepare('SELECT external_id FROM staff WHERE email = ? AND external_id <> ?').pluck();
  let changed = false;
  return checked(
    context,
    (row) => {
      const kind = row.scope_kind as keyof typeof SCOPE_TARGETS | 'all' | 'group';
      let target: number | null = null;
      if (kind !== 'all') {
        if (!row.scope) return fault('scope', `is missing: which ${kind}?`);
        const found = kind === 'group' ? group.get('/', row.scope) : targets[kind].get(row.scope);
        if (found === undefined) {
          const hint = kind === 'group' ? ' (write it as COURSE/GROUP)' : '';
          return fault('scope', `there is no ${kind} ${row.scope}${hint}`);
        }
        target = found as number;
      }
      const misspelt = alikeFault('staff_id', alike(row.staff_id));
      if (misspelt) return misspelt;
      const taken = other.get(row.email, row.staff_id);
      if (taken !== undefined) return fault('email', `belongs to ${taken} already`);
      const staff = upsert(
        raw,
        'staff',
        { external_id: row.staff_id },
        given({ given_name: row.given_name, family_name: row.family_name, email: row.email, role: row.role }),
      );
      const column = kind === 'all' ? null : kind === 'group' ? 'group_id' : SCOPE_TARGETS[kind].column;
      const scope = raw
        .prepare(
          `INSERT OR IGNORE INTO staff_scope (staff_id, kind${column ? `, ${column}` : ''}) VALUES (?, ?${column ? ', ?' : ''})`,
        )
        .run(...(column ? [staff.id, kind, target] : [staff.id, kind]));
      if (!staff.changed && scope.changes === 0) return 'duplicate';
      changed = true;
      return 'accepted';
    },
    () => {
      if (changed) reassignStaffEvents(raw, context.zone);
      changed = false;
    },
  );
};
