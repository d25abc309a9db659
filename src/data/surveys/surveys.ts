/** Surveys and their answers, cut to the viewer's scope. */
import type { Knex } from 'knex';
import type { QuestionKind, SurveyAnswer } from '@/core/surveys/survey';
import { isStaffMember } from '@/core/staff/rights';
import type { Db } from '../db';
import { freeText, personColumns } from '../person';
import { courseRowInScope, enrolmentInSegment, isOfSome, type ViewScope } from '../scope';

export interface SurveyRow {
  id: number;
  survey: string;
  questions: number;
  /** People who answered, by name. */
  people: number;
  /** Answers without a name to the question that has most of them. */
  anonymous: number;
  first: number;
  last: number;
}

/**
 * Condition: an answer the viewer may count. Those of learners as any other row of theirs; those of nobody by who sees the
 * whole course, and never in a part that is of people.
 */
function answerInView(db: Db, { viewer, segment }: ViewScope) {
  return (query: Knex.QueryBuilder) => {
    query.where((any) => {
      any.where((own) =>
        own
          .whereNotNull('a.learner_id')
          .where(courseRowInScope(db, viewer, 'a'))
          .whereExists(
            db('enrolment as part')
              .whereRaw("part.learner_id = a.learner_id AND part.course_id = a.course_id AND part.status <> 'merged'")
              .where(enrolmentInSegment(segment, 'part')),
          ),
      );
      if (isOfSome(segment)) return;
      any.orWhere((nobody) => {
        nobody.whereNull('a.learner_id');
        if (!viewer.all) nobody.whereIn('a.course_id', viewer.courses);
        if (segment.courseId !== undefined) nobody.where('a.course_id', segment.courseId);
      });
    });
  };
}

const answers = (db: Db, scope: ViewScope) =>
  db('survey_answer as a')
    .join('survey_question as q', 'q.id', 'a.question_id')
    .join('survey', 'survey.id', 'q.survey_id')
    .where(answerInView(db, scope));

/** Surveys with an answer that the viewer sees, the newest first. */
export async function listSurveys(db: Db, scope: ViewScope): Promise<SurveyRow[]> {
  const perQuestion = answers(db, scope)
    .groupBy('q.id')
    .select(
      'survey.id',
      'survey.name',
      db.raw('count(*) - count(a.learner_id) AS anonymous'),
      db.raw('min(a.asked_at) AS first'),
      db.raw('max(a.asked_at) AS last'),
    );
  const rows: Omit<SurveyRow, 'people'>[] = await db
    .from(perQuestion.as('each'))
    .groupBy('each.id')
    .orderByRaw('max(each.last) DESC, each.name')
    .select(
      'each.id',
      'each.name as survey',
      db.raw('count(*) AS questions'),
      db.raw('max(each.anonymous) AS anonymous'),
      db.raw('min(each.first) AS first'),
      db.raw('max(each.last) AS last'),
    );
  const people: { id: number; people: number }[] = await answers(db, scope)
    .groupBy('survey.id')
    .select('survey.id', db.raw('count(DISTINCT a.learner_id) AS people'));
  const byId = new Map(people.map((row) => [row.id, row.people]));
  return rows.map((row) => ({ ...row, people: byId.get(row.id) ?? 0 }));
}

export interface SurveyQuestion {
  id: number;
  question: string;
  kind: QuestionKind;
}

/** A survey by its name, with its questions in the order of their coming; null where the viewer sees no answer of it. */
export async function findSurvey(db: Db, scope: ViewScope, name: string): Promise<SurveyQuestion[] | null> {
  const rows: SurveyQuestion[] = await db('survey_question as q')
    .join('survey', 'survey.id', 'q.survey_id')
    .where('survey.name', name)
    .orderBy('q.position')
    .select('q.id', 'q.question', 'q.kind');
  const seen = await answers(db, { viewer: scope.viewer, segment: {} })
    .where('survey.name', name)
    .first(db.raw('1 AS found'));
  return seen ? rows : null;
}

/** An answer with what it can be parted by. */
export interface PlacedAnswer extends SurveyAnswer {
  questionId: number;
  learner_id: string | null;
  name: string | null;
  course: string;
  group: string | null;
  organisation: string | null;
}

/** Every answer to a survey in view. Words are read by staff alone. */
export async function surveyAnswers(db: Db, scope: ViewScope, name: string): Promise<PlacedAnswer[]> {
  const { viewer } = scope;
  const { id, name: full } = personColumns(viewer);
  const words = isStaffMember(viewer) ? freeText(viewer, 'a.answer') : "'(for staff alone)'";
  return answers(db, scope)
    .where('survey.name', name)
    .join('course', 'course.id', 'a.course_id')
    .leftJoin('learner', 'learner.id', 'a.learner_id')
    .leftJoin('enrolment as e', (on) =>
      on
        .on('e.learner_id', 'a.learner_id')
        .andOn('e.course_id', 'a.course_id')
        .andOn('e.status', '<>', db.raw("'merged'")),
    )
    .leftJoin('course_group as g', 'g.id', 'e.group_id')
    .leftJoin('organisation as o', 'o.id', 'learner.organisation_id')
    .orderBy(['a.asked_at', 'a.id'])
    .select(
      'a.question_id as questionId',
      'a.learner_id as learnerId',
      'a.asked_at as askedAt',
      db.raw(`CASE q.kind WHEN 'text' THEN ${words} ELSE a.answer END AS answer`),
      db.raw(`CASE WHEN a.learner_id IS NOT NULL THEN ${id} END AS learner_id`),
      db.raw(`CASE WHEN a.learner_id IS NOT NULL THEN ${full} END AS name`),
      'course.code as course',
      'g.name as group',
      'o.name as organisation',
    );
}
