/** The questions of items: how many had them right, how well each tells learners apart, what was answered. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { answersOf, questionStatistics, type Answer, type QuestionStatistics } from '@/core/grades/questions';
import { sayCount } from '@/core/time/words';
import { answersInView, questionsOf, type QuestionRow } from '@/data/grades/responses';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { WorkQuery } from '../completion/work-query';
import { InvalidInput, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { courseOfGroup } from '@/data/courses/courses';

class QuestionsQuery extends WorkQuery {
  @Filter({
    help: 'an item, by its id; every item with questions where it is left out',
    says: (item, _params, names) => `Item ${names.item ?? item}`,
    control: { as: 'choice', label: 'Item', choices: 'items' },
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  item?: string;

  @Filter({
    help: '`first` or `last`: which attempt of each learner; the first where it is left out',
    says: (which) => `${which === 'last' ? 'Last' : 'First'} attempts`,
    control: {
      as: 'choice',
      label: 'Attempts',
      none: 'first',
      choices: [{ value: 'last', label: 'last' }],
    },
  })
  @IsOptional()
  @IsIn(['first', 'last'], { message: 'is not one of first, last' })
  attempts?: 'first' | 'last';
}

/** A question with its figures. */
export interface QuestionShown {
  question: QuestionRow;
  figures: QuestionStatistics;
}

/** Questions of an item, missed most first. */
export async function questionsShown(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  questions: readonly QuestionRow[],
  attempts: 'first' | 'last',
): Promise<QuestionShown[]> {
  const shown: QuestionShown[] = [];
  const byId = new Map(questions.map((question) => [question.id, question]));
  for (const item of new Set(questions.map((question) => question.item))) {
    const answers = answersOf(await answersInView(db, view, item), attempts);
    for (const figures of questionStatistics(answers)) {
      const question = byId.get(figures.questionId);
      if (question) shown.push({ question, figures });
    }
  }
  return shown;
}

/** Every question of the course in view. */
export async function questionsOfCourse({ db }: Pick<Runtime, 'db'>, view: View): Promise<QuestionRow[]> {
  const courseId = view.segment.courseId ?? (await courseOfSegment({ db }, view));
  return courseId === undefined ? [] : questionsOf(db, courseId);
}

/** One learner's answers to some questions, of all attempts. */
export async function paperOf(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  questions: readonly QuestionRow[],
  learnerId: number,
): Promise<Answer[]> {
  const items = [...new Set(questions.map(({ item }) => item))];
  return (await Promise.all(items.map((item) => answersInView(db, view, item, learnerId)))).flat();
}

/** @throws InvalidInput, NotFound */
export async function questions(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(QuestionsQuery, values, runtime.zone);
  const { course, group, organisation, caseload, attempts = 'first' } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const courseId = view.segment.courseId ?? (await courseOfSegment(runtime, view));
  if (courseId === undefined)
    throw new InvalidInput([{ field: 'course', message: 'is missing: questions are those of a course' }]);
  const all = await questionsShown(runtime, view, await questionsOf(runtime.db, courseId, query.item), attempts);
  const { rows, next } = pageInOrder(all, query, ({ question }) => question.id);
  return { query, view, rows, total: all.length, next, now: view.now, zone: runtime.zone };
}

async function courseOfSegment({ db }: Pick<Runtime, 'db'>, { segment }: View): Promise<number | undefined> {
  if (segment.groupId === undefined) return undefined;
  return courseOfGroup(db, segment.groupId);
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);

/** What a question's discrimination says, in words. */
export function sayDiscrimination(value: number | null, n: number): string {
  if (value === null)
    return n < 10 ? `no reading under 10 answers (${sayCount(n, 'answer')})` : 'everybody answered alike';
  if (value < -0.15) return 'those who did well elsewhere missed it more often: look at its key';
  if (value < 0.15) return 'says little of who knows more';
  return value < 0.3 ? 'separates a little' : 'separates well';
}

export const QUESTIONS = {
  name: 'questions',
  path: '/courses/questions',
  query: QuestionsQuery,
  columns: {
    question: {
      title: 'Question',
      isKey: true,
      figures: {
        question_id: ({ question }) => question.question_id,
        question: ({ question }) => question.title,
        item_id: ({ question }) => question.item_id,
      },
    },
    n: { title: 'Answers', figures: { n: ({ figures }) => figures.n } },
    facility: { title: 'Right answers', figures: { facility: ({ figures }) => round(figures.facility) } },
    discrimination: {
      title: 'Discrimination',
      figures: { discrimination: ({ figures }) => round(figures.discrimination) },
    },
    answers: {
      title: 'Given',
      figures: {
        right_answer: ({ question }) => question.right_answer,
        answers: ({ figures }) =>
          figures.answers.map(({ answer, count, isRight }) => ({ answer, count, right: isRight })),
      },
    },
  },
  read: questions,
} satisfies List<QuestionShown>;
