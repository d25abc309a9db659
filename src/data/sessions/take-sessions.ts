/** Taking the rows of a timetable: the same session again updates, but for what was changed by hand. */
import { newSecret } from '@/core/sessions/check-in';
import { isSkipped, parseInstant } from '@/core/time/instant';
import { DAY, dayOf } from '@/core/time/zone';
import { checked, fault, orNull } from '../imports/rows';
import { alikeFault, idFinder, openAlike, type OpenImporter } from '../imports/importer';
import type { RowOf } from '../tables';
import { adoptMade } from './adopt-made';
import { derivePresenceAnew } from './presence';
import { linkSessionItems } from './session-items';
import { staleSessions } from './stale-sessions';

/** A session is hours, or a workshop of some days. */
const LONGEST = 7 * DAY;

export const openSessionsImporter: OpenImporter = (raw, context) => {
  const courseId = raw.prepare('SELECT id FROM course WHERE code = ?').pluck();
  const groupId = idFinder(
    raw,
    'SELECT id FROM course_group WHERE course_id = ?1 AND name = ?2',
    'INSERT INTO course_group (course_id, name) VALUES (?1, ?2)',
  );
  const alike = {
    group: openAlike(raw, 'SELECT course_id, name FROM course_group'),
    session: openAlike(raw, 'SELECT 0, external_id FROM session'),
  };
  const find = raw.prepare('SELECT * FROM session WHERE external_id = ?');
  const add = raw.prepare(
    `INSERT INTO session (external_id, course_id, group_id, item_ref, title, day, starts_at, ends_at, mode, place, cancelled,
       imported, imported_by, secret, changed_at)
     VALUES (@external_id, @course_id, @group_id, @item_ref, @title, @day, @starts_at, @ends_at, @mode, @place, @cancelled,
       @imported, @imported_by, @secret, @changed_at)`,
  );
  const change = raw.prepare(
    `UPDATE session SET group_id = @group_id, item_ref = @item_ref, title = @title, day = @day, starts_at = @starts_at,
       ends_at = @ends_at, mode = @mode, place = @place, cancelled = @cancelled, imported = @imported, imported_by = @imported_by,
       by_hand = 0, removed_at = NULL, sequence = sequence + 1, changed_at = @changed_at
     WHERE id = @id`,
  );
  const tell = raw.prepare('UPDATE session SET imported_by = ? WHERE id = ?');
  const courses = new Set<number>();
  const changed = new Set<number>();
  return checked(
    context,
    (row) => {
      for (const field of ['starts_at', 'ends_at'] as const) {
        if (isSkipped(row[field], context.timezone))
          return fault(field, `is none in ${context.timezone}: the clocks left it out`);
      }
      const course_id = courseId.get(row.course) as number | undefined;
      if (course_id === undefined)
        return fault('course', `there is no course ${row.course}: bring in its outline or roster first`);
      const misspelt =
        (row.group ? alikeFault('group', alike.group(row.group, course_id)) : null) ??
        alikeFault('session_id', alike.session(row.session_id));
      if (misspelt) return misspelt;
      const starts_at = parseInstant(row.starts_at, context.timezone)!;
      const ends_at = parseInstant(row.ends_at, context.timezone)!;
      if (ends_at <= starts_at) return fault('ends_at', 'does not lie after starts_at');
      if (ends_at - starts_at > LONGEST) return fault('ends_at', 'lies more than 7 days after starts_at');
      const stored = find.get(row.session_id) as RowOf<'session'> | undefined;
      if (stored && stored.course_id !== course_id)
        return fault('session_id', 'is that of a session of another course');
      const next = {
        external_id: row.session_id,
        course_id,
        group_id:
          row.group === undefined
            ? (stored?.group_id ?? null)
            : row.group === ''
              ? null
              : groupId(course_id, row.group),
        item_ref: orNull(row.item_id) ?? stored?.item_ref ?? null,
        title: row.title,
        day: dayOf(starts_at, context.zone),
        starts_at,
        ends_at,
        mode: row.mode || stored?.mode || (/^https?:/i.test(row.place ?? '') ? 'online' : 'in_person'),
        place: row.place ?? stored?.place ?? '',
        cancelled:
          row.cancelled === undefined || row.cancelled === ''
            ? (stored?.cancelled ?? 0)
            : Number(row.cancelled === 'yes'),
      };
      // What the file says, so that the same file again undoes nothing that was changed here since.
      const imported = JSON.stringify(next);
      if (stored?.imported === imported) {
        tell.run(context.runId, stored.id);
        return 'duplicate';
      }
      const kept = { ...next, imported, imported_by: context.runId, changed_at: context.now };
      const id = stored ? stored.id : Number(add.run({ ...kept, secret: newSecret() }).lastInsertRowid);
      if (stored) {
        // From the day it had, as well as from the one it has now.
        staleSessions(raw, [id]);
        change.run({ ...kept, id });
      }
      for (const made of adoptMade(raw, { ...next, id }, context.now)) changed.add(made);
      courses.add(course_id);
      changed.add(id);
      return 'accepted';
    },
    () => {
      for (const course of courses) linkSessionItems(raw, course);
      derivePresenceAnew(raw, changed);
      staleSessions(raw, changed);
      courses.clear();
      changed.clear();
    },
  );
};
