/** Surveys: which there are, and what was answered to each question, in all and by part. */
import { IsIn, IsOptional } from 'class-validator';
import { groupBy } from '@/core/group-by';
import {
  FEWEST,
  WITHHELD,
  summarise,
  summariseParts,
  type QuestionKind,
  type QuestionSummary,
  type SurveyPart,
} from '@/core/surveys/survey';
import { findSurvey, listSurveys, surveyAnswers, type PlacedAnswer, type SurveyRow } from '@/data/surveys/surveys';
import type { Viewer } from '@/data/scope';
import { NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { isoOrNull } from '../request/values';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

class SurveysQuery extends SegmentQuery {}

/** @throws InvalidInput, NotFound */
export async function surveys(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(SurveysQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const all = await listSurveys(runtime.db, view);
  const { rows, next } = pageInOrder(all, query, ({ id }) => id);
  return { query, view, rows, total: all.length, next, now: view.now, zone: runtime.zone };
}

export const SURVEYS = {
  name: 'surveys',
  path: '/courses/surveys',
  query: SurveysQuery,
  columns: {
    survey: { title: 'Survey', isKey: true, figures: { survey: (row) => row.survey } },
    questions: { title: 'Questions', figures: { questions: (row) => row.questions } },
    people: { title: 'Answered', figures: { people: (row) => row.people, anonymous: (row) => row.anonymous } },
    asked: {
      title: 'Asked',
      figures: { first_asked: (row) => isoOrNull(row.first), last_asked: (row) => isoOrNull(row.last) },
    },
  },
  read: surveys,
} satisfies List<SurveyRow>;

export const PARTED_BY = ['group', 'course', 'organisation'] as const;
type PartedBy = (typeof PARTED_BY)[number];

class SurveyQuery extends SegmentQuery {
  @Filter({ help: `each of its parts: ${PARTED_BY.join(', ')}` })
  @IsOptional()
  @IsIn(PARTED_BY, { message: `is not one of ${PARTED_BY.join(', ')}` })
  by?: PartedBy;
}

export interface SurveyQuestionShown {
  question: string;
  kind: QuestionKind;
  /** Null where too few answered without a name for it to be said. */
  summary: QuestionSummary | null;
  n: number;
  parts: SurveyPart[];
  /** Who said what, of those with a name, by the answer as it is counted. */
  given: PlacedAnswer[];
}

/** May a part of a survey be said? Answers without a name give somebody away where few are in it, or few are outside. */
function isSaid(own: QuestionSummary, whole: QuestionSummary): boolean {
  if (own.anonymous === 0 || own.n === whole.n) return true;
  return own.n >= FEWEST && whole.n - own.n >= FEWEST;
}

const PART: Record<PartedBy, (answer: PlacedAnswer) => string | null> = {
  group: ({ course, group }) => (group === null ? null : `${course}/${group}`),
  course: ({ course }) => course,
  organisation: ({ organisation }) => organisation,
};

/** What was answered to each question of a survey. @throws InvalidInput, NotFound */
export async function surveyShown(runtime: Runtime, viewer: Viewer, survey: string, values: Values) {
  const { db, zone } = runtime;
  const query = readInput(SurveyQuery, values, zone);
  const { course, group, organisation, caseload, by } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const questions = await findSurvey(db, view, survey);
  if (!questions) throw new NotFound('No such survey');
  const isPart = Object.keys(view.segment).length > 0;
  const [own, whole] = await Promise.all([
    surveyAnswers(db, view, survey),
    isPart ? surveyAnswers(db, { viewer, segment: {} }, survey) : null,
  ]);
  const [byQuestion, all] = [own, whole ?? own].map((answers) => groupBy(answers, ({ questionId }) => questionId));
  const shown = questions.map(({ id, question, kind }): SurveyQuestionShown => {
    const answers = byQuestion.get(id) ?? [];
    const summary = summarise(kind, answers);
    const says = isSaid(summary, summarise(kind, all.get(id) ?? []));
    return {
      question,
      kind,
      n: summary.n,
      summary: says ? summary : null,
      parts: by === undefined ? [] : summariseParts(kind, answers, PART[by]),
      given: answers.filter(({ learnerId }) => learnerId !== null),
    };
  });
  return { query, view, survey, questions: shown, now: view.now, zone };
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);

function figuresOf({ answers, mean, median, texts, n, anonymous }: QuestionSummary) {
  return {
    n,
    anonymous,
    answers: answers.map((one) => ({ ...one, share: round(one.share) })),
    mean: round(mean),
    median: round(median),
    texts: texts.map(({ answer }) => answer),
  };
}

/** A survey as a program gets it. @throws InvalidInput, NotFound */
export async function surveyAnswer(runtime: Runtime, viewer: Viewer, survey: string, values: Values) {
  const { questions } = await surveyShown(runtime, viewer, survey, values);
  const withheld = { answers: [], mean: null, median: null, texts: [], withheld: WITHHELD };
  const data = questions.map(({ question, kind, n, summary, parts, given }) => ({
    question,
    kind,
    n,
    ...(summary ? figuresOf(summary) : { anonymous: null, ...withheld }),
    given: given.map(({ learner_id, name, askedAt, answer }) => ({
      learner_id,
      name,
      asked_at: isoOrNull(askedAt),
      answer,
    })),
    parts: parts.map((part) => ({
      part: part.part,
      ...(part.summary ? figuresOf(part.summary) : { n: null, ...withheld }),
    })),
  }));
  return { survey, data, next: null, total: data.length };
}
