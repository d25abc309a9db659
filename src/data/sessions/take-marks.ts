/** Taking marks of rolls: one that was set by hand stays, and the other is noted beside it. */
import { checked, fault } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { findMark, noteRoll, setMark, type MarkRow } from './marks';
import { staleSessions } from './stale-sessions';

interface OfSession {
  id: number;
  course_id: number;
  starts_at: number;
}

export const openMarksImporter: OpenImporter = (raw, context) => {
  const sessions = new Map(
    (
      raw
        .prepare('SELECT external_id, id, course_id, starts_at FROM session WHERE removed_at IS NULL')
        .all() as (OfSession & {
        external_id: string;
      })[]
    ).map((row) => [row.external_id, row]),
  );
  const learners = new Map(
    raw.prepare('SELECT external_id, ifnull(merged_into, id) FROM learner').raw().all() as [string, number][],
  );
  const marks = raw.prepare('SELECT * FROM mark WHERE ended_at IS NULL').all() as MarkRow[];
  const codes = new Map(
    marks.flatMap(({ code, label }) => [code, label].map((word) => [word.toLowerCase(), code] as const)),
  );
  const enrolled = raw.prepare('SELECT 1 FROM enrolment WHERE learner_id = ? AND course_id = ?').pluck();
  const differ = raw.prepare('UPDATE attendance SET differs = @mark WHERE id = @id AND differs IS NOT @mark');
  const staffId = raw.prepare('SELECT staff_id FROM import_run WHERE id = ?').pluck().get(context.runId) as
    number | null;
  const touched = new Set<number>();
  return checked(
    context,
    (row) => {
      const session = sessions.get(row.session_id);
      if (!session) return fault('session_id', `there is no session ${row.session_id}: bring in the sessions first`);
      const learner = learners.get(row.learner_id);
      if (learner === undefined)
        return fault('learner_id', `there is no learner ${row.learner_id}: bring in the roster first`);
      if (enrolled.get(learner, session.course_id) === undefined)
        return fault('learner_id', 'is not enrolled in the session’s course');
      const mark = codes.get(row.mark.toLowerCase());
      if (mark === undefined) return fault('mark', `is not one of ${marks.map(({ code }) => code).join(', ')}`);
      const old = findMark(raw, session.id, learner);
      if (old?.source === 'hand') {
        // It is neither overwritten nor lost: the two stand side by side until somebody settles it.
        const differs = old.mark === mark ? null : mark;
        return differ.run({ mark: differs, id: old.id }).changes > 0 ? 'accepted' : 'duplicate';
      }
      const changed = setMark(raw, {
        session_id: session.id,
        learner_id: learner,
        mark,
        remark: row.remark ?? old?.remark ?? '',
        source: 'file',
        staff_id: staffId,
        at: context.now,
      });
      noteRoll(raw, session.id, context.now, staffId);
      if (changed) touched.add(session.id);
      return changed ? 'accepted' : 'duplicate';
    },
    () => {
      staleSessions(raw, touched);
      touched.clear();
    },
  );
};
