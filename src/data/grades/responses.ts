/** Answers to questions, of learners in view. */
import type { Answer } from '@/core/grades/questions';
import type { Db } from '../db';
import { HIDDEN_TEXT } from '../person';
import type { Viewer } from '../scope';
import { seenEnrolments, type View } from '../view';

/** Longer answers are texts that somebody typed, which may hold any name. */
const CHOICE = 60;
/** Short ones may be a name as well, unless so many answers in view, of more than one learner, are the same. */
const ALIKE = 3;

/** SQL of an answer as the viewer may read it: with names hidden, the right one and what several chose. */
function answerText({ standInKey }: Viewer): string {
  if (standInKey === null) return 'r.answer';
  const alike = '(PARTITION BY r.question_id, r.answer)';
  return `CASE WHEN ifnull(r.answer, '') = '' OR r.answer IN (q.right_answer, r.right_answer) OR (length(r.answer) <= ${CHOICE}
      AND count(*) OVER ${alike} >= ${ALIKE} AND min(r.learner_id) OVER ${alike} <> max(r.learner_id) OVER ${alike})
    THEN r.answer ELSE '${HIDDEN_TEXT}' END`;
}

export interface QuestionRow {
  id: number;
  item: number;
  item_id: string;
  item_title: string;
  question_id: string;
  title: string;
  right_answer: string | null;
}

/** The questions of items of a course, in the order in which they came. */
export async function questionsOf(db: Db, courseId: number, itemId?: string): Promise<QuestionRow[]> {
  return db('question as q')
    .join('item', 'item.id', 'q.item_id')
    .where('item.course_id', courseId)
    .whereNull('item.removed_at')
    .modify((query) => {
      if (itemId !== undefined) query.where('item.external_id', itemId);
    })
    .orderBy(['item.position', 'item.id', 'q.id'])
    .select(
      'q.id',
      'item.id as item',
      'item.external_id as item_id',
      'item.title as item_title',
      'q.external_id as question_id',
      'q.title',
      'q.right_answer',
    );
}

/** Answers of learners who are enrolled now and in view to the questions of an item. */
export async function answersInView(db: Db, view: View, item: number, learnerId?: number): Promise<Answer[]> {
  return seenEnrolments(db, view)
    .join('item', (on) => on.on('item.course_id', 'enrolment.course_id').andOnVal('item.id', item))
    .join('question as q', 'q.item_id', 'item.id')
    .join('response as r', (on) => on.on('r.question_id', 'q.id').andOn('r.learner_id', 'enrolment.learner_id'))
    .modify((query) => {
      if (learnerId !== undefined) query.where('enrolment.learner_id', learnerId);
      if (view.asOf !== null) query.where('r.answered_at', '<=', view.now);
    })
    .select(
      'r.learner_id as learnerId',
      'r.question_id as questionId',
      'r.attempt',
      db.raw(`${answerText(view.viewer)} AS answer`),
      'r.right_answer as rightAnswer',
      'r.score',
      'r.points',
    );
}
