import type { Metadata } from 'next';
import { sayShare } from '@/core/percent';
import { FEWEST, WITHHELD, type QuestionSummary } from '@/core/surveys/survey';
import { sayCount, sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { PARTED_BY, SURVEYS, surveyShown, surveys, type SurveyQuestionShown } from '@/server/surveys/surveys-list';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { Outputs } from '../../../_list/outputs';
import { ParamSelect } from '../../../_list/param-select';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../courses.module.css';

export const metadata: Metadata = { title: 'Surveys' };

/** Texts shown of a question until somebody opens the rest. */
const MOST_TEXTS = 20;

/** What was answered to surveys, question by question. */
export default async function SurveysPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, SURVEYS);
  const { runtime, viewer, params: all } = frame;
  const params = listParams(SURVEYS, all);
  const [list, choices] = await Promise.all([
    orNotFound(surveys(runtime, viewer, askedOf(SURVEYS, params))),
    segmentChoices(runtime, viewer),
  ]);
  const chosen = list.rows.find(({ survey }) => survey === all.survey) ?? list.rows[0];
  const by = PARTED_BY.find((one) => one === all.by);
  const kept = { ...params, survey: chosen?.survey, by };
  const shown = chosen && (await surveyShown(runtime, viewer, chosen.survey, { ...askedOf(SURVEYS, params), by }));
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
  };
  const today = dayOf(list.now, list.zone);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Surveys</h1>
          {chosen && (
            <>
              <ParamSelect
                label="Survey"
                name="survey"
                path={SURVEYS.path}
                params={kept}
                choices={list.rows.map(({ survey }) => ({ value: survey, label: survey }))}
              />
              <ParamSelect
                label="By"
                name="by"
                path={SURVEYS.path}
                params={kept}
                none="all together"
                choices={PARTED_BY.map((value) => ({ value, label: `by ${value}` }))}
              />
              <span className={classes.soft}>
                {[
                  chosen.people > 0 && sayCount(chosen.people, 'person', 'people'),
                  chosen.anonymous > 0 && `${chosen.anonymous} without a name`,
                  `asked ${sayDay(dayOf(chosen.first, list.zone), today)}${
                    dayOf(chosen.last, list.zone) === dayOf(chosen.first, list.zone)
                      ? ''
                      : ` to ${sayDay(dayOf(chosen.last, list.zone), today)}`
                  }`,
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </span>
            </>
          )}
          <Outputs list="surveys" params={params} />
        </div>
        <FilterBar
          path={SURVEYS.path}
          params={params}
          sentences={sentencesOf(SURVEYS, params)}
          controls={controlsOf(SURVEYS, offers)}
        />
        {!chosen && <p>No answers to surveys have come for this part. They come in files of survey answers.</p>}
        {shown?.questions.map((question) => (
          <Question key={question.question} of={question} />
        ))}
        {chosen && (
          <p className={classes.soft}>
            Shares are of the people who answered the question; somebody may give several answers. A part is shown where
            at least {FEWEST} answered in it and at least {FEWEST} in all others together. Who answered is seen by
            staff, unless it came without a name.
          </p>
        )}
      </div>
    </>
  );
}

function Question({ of }: { of: SurveyQuestionShown }) {
  const { question, kind, summary, n, parts, given } = of;
  return (
    <section className={classes.chart}>
      <h2>
        <bdi>{question}</bdi>{' '}
        <span className={classes.soft}>
          {sayCount(n, 'person', 'people')}
          {summary !== null && summary.anonymous > 0 && `, ${summary.anonymous} without a name`}
        </span>
      </h2>
      {summary === null ? <Withheld /> : <Summary summary={summary} kind={kind} given={given} label={question} />}
      {parts.length > 0 && (
        <PlainTable label={`${question}, by part`} heads={['Part', 'People', kind === 'scale' ? 'Mean' : 'Answers']}>
          {parts.map(({ part, summary: own }) => (
            <tr key={part} className={classes.item}>
              <td>
                <bdi>{part}</bdi>
              </td>
              <td>{own === null ? WITHHELD : own.n}</td>
              <td>{own === null ? <Withheld /> : sayPart(own, kind)}</td>
            </tr>
          ))}
        </PlainTable>
      )}
    </section>
  );
}

function Withheld() {
  return (
    <span className={classes.soft}>
      not shown: {WITHHELD} answered here, or {WITHHELD} elsewhere, and it would say who
    </span>
  );
}

/** What a part answered, in one line. */
function sayPart({ mean, median, answers, texts }: QuestionSummary, kind: string): string {
  if (kind === 'scale' && mean !== null) return `${round(mean)}, median ${round(median!)}`;
  if (kind === 'text') return sayCount(texts.length, 'text');
  return answers.map(({ answer, count, share }) => `${answer}: ${count} (${sayShare(share)})`).join(' · ');
}

const round = (value: number) => String(Math.round(value * 100) / 100);

interface SummaryProps {
  summary: QuestionSummary;
  kind: string;
  given: SurveyQuestionShown['given'];
  label: string;
}

function Summary({ summary, kind, given, label }: SummaryProps) {
  if (kind === 'text') return <Texts summary={summary} given={given} />;
  const same = (answer: string) =>
    given.filter((one) => one.answer.trim() === answer || Number(one.answer) === Number(answer));
  return (
    <>
      <PlainTable label={label} heads={['Answer', 'People', 'Share']}>
        {summary.answers.map(({ answer, count, share }) => (
          <tr key={answer} className={classes.item}>
            <td>
              <bdi>{answer}</bdi>
            </td>
            <td>
              {same(answer).length === 0 ? (
                count
              ) : (
                <details>
                  <summary>{count}</summary>
                  {same(answer).map((one) => (
                    <span key={one.learnerId} className={classes.giver}>
                      <PersonLink learnerId={one.learner_id!} name={one.name!} />
                    </span>
                  ))}
                </details>
              )}
            </td>
            <td>
              <span className={classes.share}>
                <span className={classes.shareBar} style={{ inlineSize: `${Math.round(Math.min(1, share) * 100)}%` }} />
              </span>{' '}
              {sayShare(share)}
            </td>
          </tr>
        ))}
      </PlainTable>
      {summary.mean !== null && (
        <p>
          Mean {round(summary.mean)}, median {round(summary.median!)}.
        </p>
      )}
    </>
  );
}

function Texts({ summary, given }: Pick<SummaryProps, 'summary' | 'given'>) {
  const names = new Map(given.map((one) => [one.learnerId, one]));
  const lines = summary.texts.map(({ answer, learnerId }, index) => {
    const by = learnerId === null ? undefined : names.get(learnerId);
    return (
      <li key={index}>
        <bdi>{answer}</bdi>{' '}
        <span className={classes.soft}>
          {by ? <PersonLink learnerId={by.learner_id!} name={by.name!} /> : 'without a name'}
        </span>
      </li>
    );
  });
  return (
    <>
      <ul className={classes.notable}>{lines.slice(0, MOST_TEXTS)}</ul>
      {lines.length > MOST_TEXTS && (
        <details>
          <summary>{lines.length - MOST_TEXTS} more</summary>
          <ul className={classes.notable}>{lines.slice(MOST_TEXTS)}</ul>
        </details>
      )}
    </>
  );
}
