import { sayShare } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { answersOf } from '@/core/grades/questions';
import { fullName } from '@/core/people/name';
import { sayCount } from '@/core/time/words';
import { coursesSeen } from '@/server/courses/reads';
import { paperOf, questionsOfCourse, questionsShown, sayDiscrimination } from '@/server/grades/questions-list';
import { namesOf } from '@/server/people/reads';
import { openView } from '@/server/request/view';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf } from '../course-params';
import { CourseSelect } from '../course-select';
import { ParamSelect } from '../../../_list/param-select';
import { NoCourse } from '../no-course';
import classes from '../courses.module.css';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Questions' };

const PATH = '/courses/questions';
/** Answers shown of a question; rarer ones are counted together. */
const MOST_ANSWERS = 8;

/** The questions of an item: how many had each right, how well it tells learners apart, and what was answered by whom. */
export default async function QuestionsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, params } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(params, courses);
  if (!asked) return <NoCourse frame={frame} says="questions are those of a course’s quizzes." />;
  const view = await orNotFound(openView(runtime, viewer, asked, frame.view.asOf ?? undefined));
  const all = await questionsOfCourse(runtime, view);
  const items = [...new Map(all.map(({ item_id, item_title }) => [item_id, item_title])).entries()];
  const item = items.find(([id]) => id === params.item)?.[0] ?? items.at(-1)?.[0];
  const attempts = params.attempts === 'last' ? 'last' : 'first';
  const questions = all.filter(({ item_id }) => item_id === item);
  const shown = await questionsShown(runtime, view, questions, attempts);
  const kept = { course: asked.course, item, attempts, in: params.in, as_of: params.as_of };
  const ids = [...new Set(shown.flatMap(({ figures }) => figures.answers.flatMap(({ learnerIds }) => learnerIds)))];
  const people = (await namesOf(runtime, viewer, ids)).sort((a, b) => a.family_name.localeCompare(b.family_name));
  const names = new Map(people.map((row) => [row.id, row]));
  const reader = people.find(({ learner_id }) => learner_id === params.learner);
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Questions</h1>
          <CourseSelect
            path={PATH}
            params={{ ...params, item: undefined, learner: undefined }}
            courses={courses}
            course={asked.course}
          />
          {item && (
            <ParamSelect
              label="Item"
              name="item"
              path={PATH}
              params={{ ...kept, learner: undefined }}
              choices={items.map(([value, label]) => ({ value, label }))}
            />
          )}
          <span className={classes.choices}>
            {(['first', 'last'] as const).map((which) => (
              <Link
                key={which}
                scroll={false}
                href={linkTo(PATH, { ...kept, attempts: which })}
                aria-current={which === attempts ? 'true' : undefined}
              >
                {which} attempts
              </Link>
            ))}
          </span>
          {item && <Outputs list="questions" params={kept} />}
        </div>
        {items.length === 0 && (
          <p>
            No answers to questions have come for this course. They come in files of responses, or with live statements.
          </p>
        )}
        {items.length > 0 && shown.length === 0 && (
          <p>Nobody enrolled now in this part has answered these questions.</p>
        )}
        {reader && (
          <Paper
            frame={{ runtime, view }}
            learner={reader}
            questions={questions}
            attempts={attempts}
            closeHref={linkTo(PATH, kept)}
          />
        )}
        {shown.length > 0 && (
          <PlainTable
            label="Questions"
            heads={['Question', 'Answers', 'Right answers', 'Discrimination', 'Answers given, the most frequent first']}
          >
            {shown.map(({ question, figures }) => (
              <tr key={question.id} className={classes.item}>
                <td>
                  {question.title}
                  <small>{question.question_id}</small>
                </td>
                <td>{figures.n}</td>
                <td>
                  {sayShare(figures.facility)}
                  <span className={classes.plan} aria-hidden="true">
                    <i style={{ width: `${100 * (figures.facility ?? 0)}%` }} />
                  </span>
                </td>
                <td>
                  {figures.discrimination === null ? '–' : figures.discrimination.toFixed(2).replace('-', '−')}
                  <small>{sayDiscrimination(figures.discrimination, figures.n)}</small>
                </td>
                <td>
                  <ul className={classes.answers}>
                    {figures.answers.slice(0, MOST_ANSWERS).map((answer) => (
                      <li key={answer.answer}>
                        <details>
                          <summary>
                            <bdi>{answer.answer || '(left empty)'}</bdi> {answer.isRight && <strong>✓ right</strong>}{' '}
                            <span className={classes.soft}>
                              {answer.count} · {sayShare(answer.count / figures.n)}
                            </span>
                          </summary>
                          {answer.learnerIds.map((id) => {
                            const row = names.get(id);
                            return (
                              row && (
                                <span key={id} className={classes.giver}>
                                  <Link scroll={false} href={linkTo(PATH, { ...kept, learner: row.learner_id })}>
                                    <bdi>{fullName(row)}</bdi>
                                  </Link>
                                </span>
                              )
                            );
                          })}
                        </details>
                      </li>
                    ))}
                    {figures.answers.length > MOST_ANSWERS && (
                      <li className={classes.soft}>
                        and {sayCount(figures.answers.length - MOST_ANSWERS, 'other answer')}
                      </li>
                    )}
                    {question.right_answer !== null && !figures.answers.some(({ isRight }) => isRight) && (
                      <li className={classes.soft}>
                        nobody gave the right one: <bdi>{question.right_answer}</bdi>
                      </li>
                    )}
                    {figures.rightAnswers.length > 1 && (
                      <li className={classes.soft}>its right answer has changed: {figures.rightAnswers.join(', ')}</li>
                    )}
                  </ul>
                </td>
              </tr>
            ))}
          </PlainTable>
        )}
        <p className={classes.soft}>
          Right answers is the mean share of the points. Discrimination says whether those who do well in the rest
          answer it better: it is the correlation of a question with the rest of the same attempt (classical test
          theory), from ten answers on. Each learner counts once, by their {attempts} attempt.
        </p>
      </div>
    </>
  );
}

interface PaperProps {
  frame: { runtime: Parameters<typeof paperOf>[0]; view: Parameters<typeof paperOf>[1] };
  learner: { id: number; learner_id: string; given_name: string; family_name: string };
  questions: Parameters<typeof questionsShown>[2];
  attempts: 'first' | 'last';
  closeHref: string;
}

/** One learner's paper: each question with the answer given and the right one. */
async function Paper({ frame: { runtime, view }, learner, questions, attempts, closeHref }: PaperProps) {
  const answers = answersOf(await paperOf(runtime, view, questions, learner.id), attempts);
  const byQuestion = new Map(answers.map((answer) => [answer.questionId, answer]));
  return (
    <section className={classes.paper} aria-label="One learner’s paper">
      <h2>
        <bdi>{fullName(learner)}</bdi>, {attempts} attempt <Link href={closeHref}>Close</Link>
      </h2>
      <PlainTable label="Paper" heads={['Question', 'Given', 'Right', 'Points']}>
        {questions.map((question) => {
          const answer = byQuestion.get(question.id);
          return (
            <tr key={question.id} className={classes.item}>
              <td>{question.title}</td>
              <td
                data-overdue={(answer && answer.answer !== (answer.rightAnswer ?? question.right_answer)) || undefined}
              >
                <bdi>{answer?.answer ?? 'not answered'}</bdi>
              </td>
              <td>
                <bdi>{answer?.rightAnswer ?? question.right_answer ?? 'not known'}</bdi>
              </td>
              <td>
                {answer?.score === null || answer === undefined
                  ? ''
                  : `${answer.score}${answer.points === null ? '' : ` of ${answer.points}`}`}
              </td>
            </tr>
          );
        })}
      </PlainTable>
    </section>
  );
}
