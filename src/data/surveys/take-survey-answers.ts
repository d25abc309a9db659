/** Taking answers to surveys: those of a person once each, those of nobody by how often they stand in a file. */
import { parseInstant } from '@/core/time/instant';
import type { QuestionKind } from '@/core/surveys/survey';
import type { RawConnection } from '../db';
import { idFinder, type OpenImporter } from '../imports/importer';
import { checkRow } from '@/core/imports/heading';
import { checked, fault } from '../imports/rows';

/** Finds a survey's question, or makes it; one of another kind is a slip. */
function openQuestions(raw: RawConnection) {
  const surveyOf = idFinder(raw, 'SELECT id FROM survey WHERE name = ?1', 'INSERT INTO survey (name) VALUES (?1)');
  const find = raw.prepare('SELECT id, kind FROM survey_question WHERE survey_id = ? AND question = ?');
  const add = raw.prepare(
    `INSERT INTO survey_question (survey_id, question, kind, position)
     SELECT @survey, @question, @kind, (SELECT count(*) FROM survey_question WHERE survey_id = @survey)`,
  );
  const known = new Map<string, { id: number; kind: string }>();
  return (name: string, question: string, kind: QuestionKind): { id: number; kind: string } => {
    const survey = surveyOf(name);
    const key = `${survey}/${question}`;
    let found = known.get(key) ?? (find.get(survey, question) as { id: number; kind: string } | undefined);
    if (!found) found = { id: Number(add.run({ survey, question, kind }).lastInsertRowid), kind };
    known.set(key, found);
    return found;
  };
}

export const openSurveyAnswersImporter: OpenImporter = (raw, context) => {
  const courses = new Map(raw.prepare('SELECT code, id FROM course').raw().all() as [string, number][]);
  const findLearner = raw.prepare('SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?').pluck();
  const isEnrolled = raw.prepare('SELECT 1 FROM live_enrolment WHERE learner_id = ? AND course_id = ?').pluck();
  const question = openQuestions(raw);
  const same = raw
    .prepare(
      `SELECT count(*) FROM survey_answer
       WHERE question_id = @questionId AND asked_at = @askedAt AND course_id = @courseId AND answer = @answer AND learner_id IS @learnerId`,
    )
    .pluck();
  const add = raw.prepare(
    `INSERT INTO survey_answer (question_id, learner_id, course_id, asked_at, answer, ordinal)
     VALUES (@questionId, @learnerId, @courseId, @askedAt, @answer, @ordinal)`,
  );
  /** How often a row of nobody's stands in the file so far, by all that it says. */
  const seen = new Map<string, number>();
  const count = (row: Record<string, string>): number => {
    const key = JSON.stringify([row.survey, row.asked_at, row.course, row.question, row.kind, row.answer ?? '']);
    const times = (seen.get(key) ?? 0) + 1;
    seen.set(key, times);
    return times;
  };
  const importer = checked(context, (row) => {
    const courseId = courses.get(row.course);
    if (courseId === undefined) return fault('course', `there is no course ${row.course}: bring in the outline first`);
    const answer = row.answer?.trim() ?? '';
    if (answer === '') return fault('answer', 'is missing');
    const learnerId = row.learner_id ? (findLearner.get(row.learner_id) as number | undefined) : null;
    if (learnerId === undefined)
      return fault('learner_id', `there is no learner ${row.learner_id}: bring in the roster first`);
    if (learnerId !== null && isEnrolled.get(learnerId, courseId) === undefined)
      return fault('learner_id', `is not enrolled in ${row.course}`);
    const of = question(row.survey, row.question, row.kind as QuestionKind);
    if (of.kind !== row.kind) return fault('kind', `is ${of.kind} elsewhere for this question`);
    const ordinal = learnerId === null ? count(row) : 1;
    const askedAt = parseInstant(row.asked_at, context.timezone)!;
    const key = { questionId: of.id, askedAt, courseId, answer, learnerId };
    if ((same.get(key) as number) >= ordinal) return 'duplicate';
    add.run({ ...key, ordinal });
    return 'accepted';
  });
  return {
    ...importer,
    // Those of before an interruption are counted again, so that the next alike is the next.
    replay(row) {
      const { values } = checkRow(context.heading, row.cells);
      if (values && !values.learner_id) count(values);
    },
  };
};
