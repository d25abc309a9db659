/** A course with its items, rules and categories, as the computations take it. */
import { DEFAULT_PASS_MARK } from '@/core/grades/bands';
import type { Course, CourseItem } from '@/core/completion/course';
import { webAddress } from '@/core/courses/web-address';
import { ruleOf } from '@/core/completion/rule';
import { prepared, type RawConnection } from '../db';
import type { RowOf } from '../tables';
import { readOptions } from './options';
import { hasResultsSql } from '../work/has-results';

type ItemRow = RowOf<'item'> & { unit: string | null };

/** The mark that is enough in a course, in per cent. */
export function passMarkOf({ passMark }: Pick<Course, 'passMark'>): number {
  return passMark ?? DEFAULT_PASS_MARK;
}

function asItem(row: ItemRow, hasResults: boolean): CourseItem {
  return {
    id: row.id,
    externalId: row.external_id,
    title: row.title,
    kind: row.kind,
    unitId: row.unit_id,
    unit: row.unit,
    required: row.required === 1,
    opensAt: row.opens_at,
    dueAt: row.due_at,
    points: row.points,
    category: row.category,
    must: row.must === 1,
    stage: row.stage,
    url: webAddress(row.url),
    policy: row.policy,
    rule: ruleOf(row.kind, row.done_when),
    hasResults,
    ...(row.provisional !== null && { isProvisional: true }),
  };
}

/** A course by its id, its items in outline order without those that were removed. */
export function readCourse(raw: RawConnection, courseId: number): Course {
  const course = prepared(raw, 'SELECT * FROM course WHERE id = ?').get(courseId) as RowOf<'course'>;
  const rows = prepared(
    raw,
    `SELECT item.*, unit.title AS unit FROM item LEFT JOIN unit ON unit.id = item.unit_id
     WHERE item.course_id = ? AND item.removed_at IS NULL ORDER BY item.position, item.id`,
  ).all(courseId) as ItemRow[];
  const weights = new Map<string, number | null>();
  for (const { category, weight } of rows) {
    if (category !== null && (weights.get(category) ?? null) === null) weights.set(category, weight);
  }
  const withResults = new Set(
    prepared(raw, `SELECT id FROM item WHERE course_id = ? AND ${hasResultsSql('item.id')}`)
      .pluck()
      .all(courseId) as number[],
  );
  return {
    id: course.id,
    code: course.code,
    title: course.title,
    start: course.starts_day,
    end: course.ends_day,
    passMark: course.pass_mark,
    items: rows.map((row) => asItem(row, withResults.has(row.id))),
    categories: [...weights].map(([name, weight]) => ({ name, weight })),
    options: readOptions(raw, courseId),
  };
}
