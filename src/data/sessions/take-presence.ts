/** Taking rows of presence, of one session or of many. */
import { isSkipped, parseInstant } from '@/core/time/instant';
import { HOUR } from '@/core/time/zone';
import { checked, fault } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { derivePresenceAnew, openMatcher, storePresence, type RowMatcher } from './presence';

/** A row that lies further than this from its session is of another one, or in another zone. */
const FURTHEST = 12 * HOUR;

interface OfSession {
  id: number;
  course_id: number;
  starts_at: number;
  ends_at: number;
}

/** What is wrong with when somebody came and went; null for nothing. */
export function presenceFault(
  { entered, left }: { entered: number; left: number | null },
  session: Pick<OfSession, 'starts_at' | 'ends_at'>,
): { field: 'entered' | 'left'; reason: string } | null {
  if (left !== null && left < entered) return { field: 'left', reason: 'lies before entered' };
  if (entered > session.ends_at + FURTHEST || (left ?? entered) < session.starts_at - FURTHEST) {
    return {
      field: 'entered',
      reason: 'lies more than 12 hours from the session: of another one, or in another time zone',
    };
  }
  return null;
}

export const openPresenceImporter: OpenImporter = (raw, context) => {
  const find = raw.prepare(
    'SELECT id, course_id, starts_at, ends_at FROM session WHERE external_id = ? AND removed_at IS NULL',
  );
  const sessions = new Map<string, OfSession | undefined>();
  const matchers = new Map<number, RowMatcher>();
  const ofWhole = raw.prepare('SELECT session FROM import_run WHERE id = ?').pluck().get(context.runId) as
    string | null;
  const touched = new Set<number>();
  const nobodyKnown = raw.prepare('UPDATE import_run SET unmatched = unmatched + ? WHERE id = ?');
  let unmatched = 0;
  return checked(
    context,
    (row) => {
      // Whoever brought it in may take that session's roll; of another, nothing is taken and nothing told.
      if (ofWhole && row.session_id && row.session_id !== ofWhole)
        return fault('session_id', `is not ${ofWhole}, the session that this file was brought in for`);
      const id = row.session_id || ofWhole;
      if (!id) return fault('session_id', 'is missing, and nothing says which session the file is of');
      if (!sessions.has(id)) sessions.set(id, find.get(id) as OfSession | undefined);
      const session = sessions.get(id);
      if (!session) return fault('session_id', `there is no session ${id}: bring in the sessions first`);
      for (const field of ['entered', 'left'] as const) {
        if (row[field] && isSkipped(row[field], context.timezone))
          return fault(field, `is none in ${context.timezone}: the clocks left it out`);
      }
      const entered = parseInstant(row.entered, context.timezone)!;
      const left = row.left ? parseInstant(row.left, context.timezone) : null;
      const wrong = presenceFault({ entered, left }, session);
      if (wrong) return fault(wrong.field, wrong.reason);
      let matcher = matchers.get(session.course_id);
      if (!matcher) matchers.set(session.course_id, (matcher = openMatcher(raw, session.course_id)));
      const { result, matched } = storePresence(
        raw,
        session.id,
        { person: row.person, email: row.email || null, entered, left },
        matcher,
      );
      if (result === 'same') return 'duplicate';
      if (matched === null) unmatched += 1;
      touched.add(session.id);
      return 'accepted';
    },
    () => {
      derivePresenceAnew(raw, touched);
      touched.clear();
      if (unmatched > 0) nobodyKnown.run(unmatched, context.runId);
      unmatched = 0;
    },
  );
};
