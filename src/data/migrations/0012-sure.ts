import type { Knex } from 'knex';
import { storedFeedback } from '@/core/grades/feedback';

/**
 * How each session that was held goes for everybody who was in its course on its day: the mark; else, while the roll is not
 * closed, provisionally a check-in or what presence suggests; else no row. `core/sessions/outcome` says the same.
 */
const SESSION_OUTCOME = `CREATE VIEW session_outcome AS
  SELECT o.*, mark.credit, mark.counts FROM (
    SELECT s.id AS session_id, s.course_id, s.item_id, s.day, s.starts_at, s.ends_at, e.id AS enrolment_id, e.learner_id,
      a.mark IS NULL OR (s.roll_at IS NULL AND a.source = 'check_in') AS is_provisional, ifnull(p.first_in, ifnull(c.at, s.starts_at)) AS at,
      CASE
        WHEN a.mark IS NOT NULL THEN a.mark
        WHEN s.roll_at IS NOT NULL THEN NULL
        WHEN c.at IS NOT NULL THEN
          CASE WHEN c.at <= s.starts_at + ifnull(r.late_after, 10) * 60000 THEN 'present' ELSE 'late' END
        WHEN p.learner_id IS NULL THEN
          CASE WHEN EXISTS (SELECT 1 FROM presence_row WHERE session_id = s.id)
            AND NOT EXISTS (SELECT 1 FROM presence_row WHERE session_id = s.id AND matched IS NULL) THEN 'absent' END
        WHEN p.first_in IS NULL OR p.ms * 1.0 / max(1, s.ends_at - s.starts_at) < ifnull(r.absent_under, 0.1) THEN 'absent'
        WHEN p.ms * 1.0 / max(1, s.ends_at - s.starts_at) >= ifnull(r.present_from, 0.75) THEN
          CASE WHEN p.first_in <= s.starts_at + ifnull(r.grace_minutes, 10) * 60000 THEN 'present' ELSE 'late' END
        ELSE 'partial'
      END AS mark
    FROM enrolment e JOIN session s ON s.course_id = e.course_id AND s.cancelled = 0 AND s.removed_at IS NULL
      AND e.status <> 'merged' AND e.enrolled_day <= s.day AND (e.ended_day IS NULL OR e.ended_day >= s.day)
    LEFT JOIN attendance a ON a.session_id = s.id AND a.learner_id = e.learner_id
    LEFT JOIN presence p ON p.session_id = s.id AND p.learner_id = e.learner_id
    LEFT JOIN check_in c ON c.session_id = s.id AND c.learner_id = e.learner_id AND c.state <> 'refused'
    LEFT JOIN session_rule r ON r.course_id = s.course_id
    WHERE s.group_id IS NULL OR s.group_id IS e.group_id
      OR a.id IS NOT NULL OR p.learner_id IS NOT NULL OR c.id IS NOT NULL
  ) AS o JOIN mark ON mark.code = o.mark`;

/** What a learner's keys are made of. */
const LEARNER_KEYS = (of: string) => `sort_key = fold_text(${of}.family_name || ' ' || ${of}.given_name),
  find_key = fold_text(${of}.given_name || ' ' || ${of}.family_name || ' ' || ${of}.external_id || ' '
    || ifnull(${of}.email, '') || ' ' || ifnull(${of}.phone, ''))`;

const CHANGES = [
  // Without what a merge left behind.
  `CREATE VIEW live_enrolment AS SELECT * FROM enrolment WHERE status <> 'merged'`,
  `CREATE VIEW active_learner AS SELECT * FROM learner WHERE merged_into IS NULL`,
  SESSION_OUTCOME,
  // What courses tell of: days on which anything of a kind of evidence was told of anybody.
  `CREATE TABLE course_evidence (
     course_id INTEGER NOT NULL REFERENCES course (id),
     kind TEXT NOT NULL,
     day INTEGER NOT NULL,
     PRIMARY KEY (course_id, kind, day)
   ) WITHOUT ROWID`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'opens', day FROM learner_day WHERE events > 0`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'worked', day FROM learner_day WHERE worked + talked > 0`,
  `INSERT OR IGNORE INTO course_evidence (course_id, kind, day)
     SELECT DISTINCT course_id, 'talked', day FROM learner_day WHERE talked > 0`,
  // The file that told of a session or an item last: what a newer version of a calendar left out is not held, and one
  // outline has each place once.
  `ALTER TABLE session ADD COLUMN told_by INTEGER REFERENCES import_run (id)`,
  `ALTER TABLE item ADD COLUMN told_by INTEGER REFERENCES import_run (id)`,
  // Where a device's check-in came from, sealed: many from one network and browser are shown as such.
  `ALTER TABLE check_in ADD COLUMN origin TEXT NOT NULL DEFAULT ''`,
  // The last event of a day on which an item has none but of kind other: what its minutes are dated by.
  `ALTER TABLE item_day ADD COLUMN other_last INTEGER`,
  `INSERT INTO touched (learner_id, from_at, to_at, mark)
     SELECT learner_id, min(day) * 86400000 - 86400000, max(day) * 86400000 + 172800000, random() & 1073741823 FROM item_day
     WHERE last IS NULL AND events > 0 GROUP BY learner_id
     ON CONFLICT DO UPDATE SET from_at = min(from_at, excluded.from_at), to_at = max(to_at, excluded.to_at)`,
  // How often an import was begun since it last got on, and what its taker remembered then.
  `ALTER TABLE import_run ADD COLUMN tries INTEGER NOT NULL DEFAULT 0`,
  `ALTER TABLE import_run ADD COLUMN taker_state TEXT`,
  // What people are found and sorted by, without accents and capitals; kept true by the database itself.
  `ALTER TABLE learner ADD COLUMN sort_key TEXT NOT NULL DEFAULT ''`,
  `ALTER TABLE learner ADD COLUMN find_key TEXT NOT NULL DEFAULT ''`,
  `UPDATE learner SET ${LEARNER_KEYS('learner')}`,
  `CREATE INDEX learner_sort ON learner (sort_key, id)`,
  ...['INSERT', 'UPDATE OF given_name, family_name, external_id, email, phone'].map(
    (change, index) => `CREATE TRIGGER learner_keys_${index} AFTER ${change} ON learner BEGIN
       UPDATE learner SET ${LEARNER_KEYS('NEW')} WHERE id = NEW.id; END`,
  ),
  // Silences of a source that were noted by themselves, and end so.
  `ALTER TABLE feed_gap ADD COLUMN by_itself INTEGER NOT NULL DEFAULT 0`,
  // The plan by the evidence that it takes. Derived, as is the evidence of work: all of it is worked out anew at start.
  `ALTER TABLE standing ADD COLUMN tracks TEXT NOT NULL DEFAULT '[]'`,
  `INSERT INTO standing_stale (enrolment_id, mark) SELECT id, random() & 1073741823 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET mark = excluded.mark`,
  `INSERT INTO drift_stale (enrolment_id, from_day, recent, mark) SELECT id, -1, 1, random() & 1073741823 FROM enrolment WHERE true
     ON CONFLICT DO UPDATE SET from_day = -1, recent = 1, mark = excluded.mark`,
];

export async function up(db: Knex): Promise<void> {
  for (const sql of CHANGES) await db.raw(sql);
  // Feedback is cleaned once, when it comes, and no longer each time that it is read.
  const marked = await db('attempt').whereRaw("feedback GLOB '*[<&]*'").select('id', 'feedback');
  for (const { id, feedback } of marked)
    await db('attempt')
      .where({ id })
      .update({ feedback: storedFeedback(feedback ?? '') });
}

/** Migrations only go forward; a backup is the way back. */
export async function down(): Promise<void> {
  throw new Error('Migrations of Lee Shore only go forward. Restore a backup instead.');
}
