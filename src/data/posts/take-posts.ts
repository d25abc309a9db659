/** Taking posts: each counts once, however often and by whatever way it comes. */
import { feedbackText, storedFeedback } from '@/core/grades/feedback';
import { countWords } from '@/core/word-count';
import { parseInstant } from '@/core/time/instant';
import { openActors } from '../access/actors';
import { CLOCK_TOLERANCE } from '../access/take-access-log';
import type { RawConnection } from '../db';
import type { OpenImporter } from '../imports/importer';
import { checked, fault } from '../imports/rows';

/** A post as a source gives it. */
export interface GivenPost {
  learnerId: number | null;
  staffId: number | null;
  courseId: number;
  itemId: number | null;
  at: number;
  text: string;
  /** Its own id; null where it has none. */
  externalId: string | null;
  replyTo: string | null;
  /** The statement that told of it; null for a file. */
  statementId: number | null;
}

interface StoredPost {
  id: number;
  learner_id: number | null;
  staff_id: number | null;
  text: string;
  external_id: string | null;
  reply_to: string | null;
  item_id: number | null;
}

/**
 * Opens what stores posts. One is known by its id in the course; one without by its time, author and item. A text that was
 * changed is taken by its id alone: of two without that were written in the same second, the first stands.
 * @returns 'of another' where the id stands for somebody else's
 */
export function openPosts(raw: RawConnection) {
  const columns = 'id, learner_id, staff_id, text, external_id, reply_to, item_id';
  const byId = raw.prepare(`SELECT ${columns} FROM post WHERE course_id = ? AND external_id = ?`);
  const same = (who: string) =>
    raw.prepare(
      `SELECT ${columns} FROM post WHERE ${who} = @who AND at = @at AND course_id = @courseId AND item_id IS @itemId
         AND (external_id IS NULL OR @externalId IS NULL) ORDER BY id LIMIT 1`,
    );
  const [ofLearner, ofStaff] = [same('learner_id'), same('staff_id')];
  const add = raw.prepare(
    `INSERT INTO post (learner_id, staff_id, course_id, item_id, at, text, words, external_id, reply_to, statement_id)
     VALUES (@learnerId, @staffId, @courseId, @itemId, @at, @text, @words, @externalId, @replyTo, @statementId)`,
  );
  const change = raw.prepare(
    'UPDATE post SET text = @text, words = @words, external_id = @externalId, reply_to = @replyTo, item_id = @itemId WHERE id = @id',
  );
  return (given: GivenPost): 'accepted' | 'duplicate' | 'of another' => {
    const { learnerId, staffId, courseId, externalId } = given;
    const text = (feedbackText(storedFeedback(given.text)) ?? '').trim();
    const known = (externalId === null ? undefined : byId.get(courseId, externalId)) as StoredPost | undefined;
    if (known && (known.learner_id !== learnerId || known.staff_id !== staffId)) return 'of another';
    const stored =
      known ??
      ((learnerId === null ? ofStaff : ofLearner).get({ ...given, who: learnerId ?? staffId }) as
        StoredPost | undefined);
    if (!stored) {
      add.run({ ...given, text, words: countWords(text) });
      return 'accepted';
    }
    const next = {
      id: stored.id,
      text: externalId === null ? stored.text : text,
      externalId: stored.external_id ?? externalId,
      replyTo: given.replyTo ?? stored.reply_to,
      itemId: given.itemId ?? stored.item_id,
    };
    const isSame =
      next.text === stored.text &&
      next.externalId === stored.external_id &&
      next.replyTo === stored.reply_to &&
      next.itemId === stored.item_id;
    if (isSame) return 'duplicate';
    change.run({ ...next, words: countWords(next.text) });
    return 'accepted';
  };
}

export const openPostsImporter: OpenImporter = (raw, context) => {
  const actorIn = openActors(raw, context.zone);
  const store = openPosts(raw);
  return checked(context, (row) => {
    const at = parseInstant(row.time, context.timezone)!;
    if (at > context.now + CLOCK_TOLERANCE) return fault('time', 'lies in the future');
    const found = actorIn(row.learner_id, row.course, row.item_id ?? '');
    if ('reason' in found) return found;
    if (!row.text?.trim()) return fault('text', 'is missing');
    const outcome = store({
      ...found,
      at,
      text: row.text,
      externalId: row.post_id || null,
      replyTo: row.in_reply_to || null,
      statementId: null,
    });
    return outcome === 'of another' ? fault('post_id', 'stands for what another person wrote') : outcome;
  });
};
