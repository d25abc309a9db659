/** Taking outline rows: courses, their units and items. */
import { isSkipped, parseInstant } from '@/core/time/instant';
import { sayCount, plural } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import { staleCourses } from '../drift/stale';
import { checked, day, fault, given, orNull, upsert } from '../imports/rows';
import { RULING, affectedBy, type Ruling } from './item-changes';
import { staleCourseWork } from '../work/stale-work';
import { linkSessionItems } from '../sessions/session-items';
import { alikeFault, idFinder, openAlike, type OpenImporter } from '../imports/importer';

interface StoredCourse {
  id: number;
  starts_day: number | null;
  ends_day: number | null;
}

interface StoredItem extends Record<Ruling, string | number | null> {
  id: number;
  opens_at: number | null;
  /** Names of columns that were set here, as JSON. */
  by_hand: string;
  removed_at: number | null;
}

/** What is remembered of the rows so far: where each course is, and what there is to say at the end. */
interface OutlineState {
  positions: [course: number, position: number][];
  changedItems: number[];
  kept: string[];
}

export const openOutlineImporter: OpenImporter = (raw, context) => {
  const changedCourses = new Set<number>();
  const withSessions = new Set<number>();
  const ruled = new Set<number>();
  /** Items that are done, due or graded otherwise than before, and columns that stay as they were set here. */
  const before = context.before as OutlineState | null | undefined;
  const [changedItems, kept] = [new Set<number>(before?.changedItems), new Set<string>(before?.kept)];
  const positions = new Map<number, number>(before?.positions);
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
  const tell = raw.prepare('UPDATE item SET imported_by = ? WHERE id = ?');
  const itemBefore = raw.prepare('SELECT * FROM item WHERE course_id = ? AND external_id = ?');
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
      if (typeof opening === 'number' && typeof deadline === 'number' && deadline < opening) {
        return fault(due ? 'due_at' : 'opens_at', 'the item would be due before it opens');
      }
      const course = upsert(
        raw,
        'course',
        { code: row.course },
        given({
          title: row.course_title || undefined,
          provisional: null,
          starts_day: starts ?? undefined,
          ends_day: ends ?? undefined,
          pass_mark: numeral(row.pass_mark || undefined),
        }),
        { title: row.course },
      );
      const misspeltItem = alikeFault('item_id', alike.item(row.item_id, course.id));
      if (misspeltItem) return misspeltItem;
      const position = (positions.get(course.id) ?? 0) + 1;
      positions.set(course.id, position);
      const values = given({
        unit_id: row.unit === undefined ? undefined : row.unit === '' ? null : unitId(course.id, row.unit),
        title: row.item,
        provisional: null,
        kind: row.kind,
        required: row.required === undefined ? undefined : row.required === 'yes' ? 1 : 0,
        opens_at: opens,
        due_at: due,
        points: numeral(row.points),
        category: orNull(row.category),
        weight: numeral(row.weight),
        changed_at: instant(row.changed_at),
        done_when: orNull(row.done_when),
        url: orNull(row.url),
        must: row.must === undefined ? undefined : row.must === 'yes' ? 1 : 0,
        stage: orNull(row.stage),
        position,
      });
      // What was set here stays, and is told of.
      for (const name of item ? (JSON.parse(item.by_hand) as string[]) : []) {
        if (name in values && values[name] !== item![name as Ruling]) kept.add(`${row.item_id} (${name})`);
        delete values[name];
      }
      const isOtherwise = RULING.some((name) => name in values && values[name] !== (item?.[name] ?? null));
      const where = { course_id: course.id, external_id: row.item_id };
      const taken = upsert(raw, 'item', where, values, { required: 0 });
      tell.run(context.runId, taken.id);
      if (isOtherwise) ruled.add(course.id);
      if (isOtherwise && item) changedItems.add(item.id);
      if (course.changed) changedCourses.add(course.id);
      if (taken.changed && row.kind === 'session') withSessions.add(course.id);
      return course.changed || taken.changed ? 'accepted' : 'duplicate';
    },
    () => {
      for (const course of withSessions) linkSessionItems(raw, course);
      withSessions.clear();
      for (const course of changedCourses) ruled.add(course);
      staleCourseWork(raw, ruled);
      ruled.clear();
      staleCourses(raw, changedCourses);
    },
    () => [
      ...affectedBy(raw, changedItems),
      ...(kept.size === 0
        ? []
        : [
            `${sayCount(kept.size, 'value')} set here ${plural(kept.size, 'stays', 'stay')}: ${[...kept].slice(0, 5).join(', ')}${kept.size > 5 ? ' …' : ''}.`,
          ]),
    ],
    (): OutlineState => ({ positions: [...positions], changedItems: [...changedItems], kept: [...kept] }),
  );
};
