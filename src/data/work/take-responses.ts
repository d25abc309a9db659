/** Taking answers to questions. The same answer again changes nothing; another one in its place is a correction. */
import { parseInstant } from '@/core/time/instant';
import type { RawConnection } from '../db';
import { checked } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { isNotFound, openWorkLookup } from './lookup';

/** An answer as a source gives it; null for what it does not say. */
export interface GivenResponse {
  learnerId: number;
  itemId: number;
  attempt: number;
  questionId: string;
  question: string | null;
  answer: string;
  rightAnswer: string | null;
  score: number | null;
  points: number | null;
  answeredAt: number | null;
}

interface StoredQuestion {
  id: number;
  title: string;
  right_answer: string | null;
}

/** Opens what stores answers and the questions they are to. */
export function openResponses(raw: RawConnection) {
  const find = raw.prepare('SELECT id, title, right_answer FROM question WHERE item_id = ? AND external_id = ?');
  const add = raw.prepare('INSERT INTO question (item_id, external_id, title, right_answer) VALUES (?, ?, ?, ?)');
  const rename = raw.prepare('UPDATE question SET title = ?, right_answer = ? WHERE id = ?');
  const questions = new Map<string, StoredQuestion>();
  // What an answer was held against stays with it: a question's right answer may be another later.
  const store = raw.prepare(
    `INSERT INTO response (question_id, learner_id, attempt, answer, right_answer, score, points, answered_at)
     VALUES (@questionId, @learnerId, @attempt, @answer, @rightAnswer, @score, @points, @answeredAt)
     ON CONFLICT DO UPDATE SET answer = excluded.answer, right_answer = ifnull(excluded.right_answer, right_answer),
       score = ifnull(excluded.score, score), points = ifnull(excluded.points, points),
       answered_at = ifnull(excluded.answered_at, answered_at)
     WHERE (answered_at IS NULL OR excluded.answered_at IS NULL OR excluded.answered_at >= answered_at)
       AND (answer IS NOT excluded.answer OR right_answer IS NOT ifnull(excluded.right_answer, right_answer)
         OR score IS NOT ifnull(excluded.score, score) OR points IS NOT ifnull(excluded.points, points)
         OR answered_at IS NOT ifnull(excluded.answered_at, answered_at))`,
  );

  function questionOf({ itemId, questionId, question, rightAnswer }: GivenResponse): number {
    const key = `${itemId}/${questionId}`;
    let own = questions.get(key) ?? (find.get(itemId, questionId) as StoredQuestion | undefined);
    const [title, right] = [question ?? own?.title ?? questionId, rightAnswer ?? own?.right_answer ?? null];
    if (!own) {
      own = { id: Number(add.run(itemId, questionId, title, right).lastInsertRowid), title, right_answer: right };
    } else if (own.title !== title || own.right_answer !== right) {
      rename.run(title, right, own.id);
      Object.assign(own, { title, right_answer: right });
    }
    questions.set(key, own);
    return own.id;
  }

  /** Takes an answer. Returns whether anything is new. */
  return (given: GivenResponse): boolean => {
    const { learnerId, attempt, answer, rightAnswer, score, points, answeredAt } = given;
    const questionId = questionOf(given);
    return store.run({ questionId, learnerId, attempt, answer, rightAnswer, score, points, answeredAt }).changes > 0;
  };
}

export const openResponsesImporter: OpenImporter = (raw, context) => {
  const lookup = openWorkLookup(raw);
  const store = openResponses(raw);
  const numeral = (value: string | undefined) => (value ? Number(value) : null);
  return checked(context, (row) => {
    const found = lookup(row);
    if (isNotFound(found)) return found;
    const isNew = store({
      ...found,
      attempt: row.attempt ? Number(row.attempt) : 1,
      questionId: row.question_id,
      question: row.question || null,
      answer: row.answer ?? '',
      rightAnswer: row.right_answer || null,
      score: numeral(row.score),
      points: numeral(row.points) || null,
      answeredAt: row.answered_at ? parseInstant(row.answered_at, context.timezone) : null,
    });
    return isNew ? 'accepted' : 'duplicate';
  });
};
