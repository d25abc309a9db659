/** Taking staff rows: a person once for each part that they see. */
import { reassignStaffEvents } from '../access/actors';
import { checked, fault, given, upsert } from '../imports/rows';
import { alikeFault, openAlike, type OpenImporter } from '../imports/importer';

const SCOPE_TARGETS = {
  organisation: { column: 'organisation_id', sql: 'SELECT id FROM organisation WHERE name = ?' },
  course: { column: 'course_id', sql: 'SELECT id FROM course WHERE code = ?' },
  learner: { column: 'learner_id', sql: 'SELECT id FROM learner WHERE external_id = ?' },
} as const;

export const openStaffImporter: OpenImporter = (raw, context) => {
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
          `INSERT INTO staff_scope (staff_id, kind${column ? `, ${column}` : ''}) VALUES (?, ?${column ? ', ?' : ''})
           ON CONFLICT DO UPDATE SET by_claim = 0, platform_course_id = NULL WHERE by_claim OR platform_course_id IS NOT NULL`,
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
