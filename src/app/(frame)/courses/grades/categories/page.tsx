import { sayPercent } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { fullName } from '@/core/people/name';
import { sayCount } from '@/core/time/words';
import { coursesSeen } from '@/server/courses/reads';
import { analyseCategories, gainsOf, gradesInView } from '@/server/grades/analysis';
import { IsOptional } from 'class-validator';
import { AsInstant, InvalidInput, readInput } from '@/server/request/input';
import { sayPeriod } from '@/server/request/period';
import { openView } from '@/server/request/view';
import { PlainTable } from '@/ui/plain-table';
import { Series } from '@/ui/series';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import { CourseTabs } from '../../../../_frame/sections';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { courseOf } from '../../course-params';
import { CourseSelect } from '../../course-select';
import { NoCourse } from '../../no-course';
import classes from '../../courses.module.css';
import { GradesTabs } from '../grades-tabs';
import { PeriodForm } from '../../period-form';

export const metadata: Metadata = { title: 'Grades by category' };

const PATH = '/courses/grades/categories';

class PracticeQuery {
  @IsOptional() @AsInstant() from?: number;
  @IsOptional() @AsInstant() to?: number;
}

/** Each category of a course (a skill, where it is named so) down to the learners behind one number. */
export default async function CategoriesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, params } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(params, courses);
  if (!asked) return <NoCourse frame={frame} says="categories are those of a course." />;
  const view = await orNotFound(openView(runtime, viewer, asked, frame.view.asOf ?? undefined));
  let period: PracticeQuery = {};
  let fault: string | null = null;
  try {
    period = readInput(PracticeQuery, { from: params.from, to: params.to }, runtime.zone);
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    fault = error.errors.map(({ field, message }) => `${field} ${message}`).join('; ');
  }
  const rows = await gradesInView(runtime, view);
  const categories = analyseCategories(rows, period);
  const gains = gainsOf(rows);
  const chosen = categories.find(({ name }) => name === params.category);
  const kept = { course: asked.course, in: params.in, from: params.from, to: params.to };
  const says = sayPeriod(period, runtime.zone, view.now);
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Grades</h1>
          <CourseSelect
            path={PATH}
            params={{ ...params, category: undefined }}
            courses={courses}
            course={asked.course}
          />
          <GradesTabs here={PATH} params={{ ...asked, in: params.in }} />
        </div>
        {fault && (
          <p role="alert" className={classes.fault}>
            This link asks for what cannot be shown: {fault}. All of the time is shown instead.
          </p>
        )}
        {categories.length === 0 ? (
          <p>No item of this course names a category. An outline has them in its column category.</p>
        ) : (
          <>
            <PeriodForm
              label="Practised from"
              verb="Count"
              path={PATH}
              params={kept}
              from={params.from?.slice(0, 10) ?? ''}
              to={params.to?.slice(0, 10) ?? ''}
            />
            <PlainTable
              label="Categories"
              heads={[
                'Category',
                'Weight',
                'Items',
                'Mean',
                'Median',
                'Middle half',
                'Learners',
                `Practised ${says}`,
                'How well',
              ]}
            >
              {categories.map((category) => (
                <tr
                  key={category.name}
                  className={classes.item}
                  data-current={category.name === chosen?.name || undefined}
                >
                  <td>
                    <Link
                      scroll={false}
                      href={linkTo(PATH, { ...kept, category: category.name === chosen?.name ? null : category.name })}
                    >
                      {category.name}
                    </Link>
                  </td>
                  <td>{category.weight ?? 'none'}</td>
                  <td>{category.items}</td>
                  <td>{sayPercent(category.spread.mean, 1)}</td>
                  <td>{sayPercent(category.spread.median, 1)}</td>
                  <td>
                    {category.spread.low === null
                      ? 'too few'
                      : `${sayPercent(category.spread.low, 1)} to ${sayPercent(category.spread.high, 1)}`}
                  </td>
                  <td>{category.spread.n}</td>
                  <td>
                    {category.practised} of {rows.length}
                  </td>
                  <td>{sayPercent(category.practisedMean, 1)}</td>
                </tr>
              ))}
            </PlainTable>
          </>
        )}
        {chosen && (
          <section className={classes.chart}>
            <h2>
              {chosen.name}: {sayCount(chosen.learners.length, 'learner')}, the weakest first
            </h2>
            <PlainTable label={`Learners in ${chosen.name}`} heads={['Learner', 'Mean', 'Graded', 'Scores', 'Pattern']}>
              {chosen.learners.map(({ enrolled, mean, graded, series, pattern }) => (
                <tr key={enrolled.enrolmentId} className={classes.item}>
                  <td>
                    <Link
                      href={`/learners/${encodeURIComponent(enrolled.learner_id)}/courses/${encodeURIComponent(asked.course)}`}
                    >
                      <bdi>{fullName(enrolled)}</bdi>
                    </Link>
                  </td>
                  <td>{sayPercent(mean, 1)}</td>
                  <td>{graded}</td>
                  <td>
                    <Series
                      values={series.slice(-10)}
                      width={80}
                      level={rows[0].passMark}
                      says={series.map((score) => `${Math.round(score)} %`).join(', ')}
                    />
                  </td>
                  <td>{pattern ?? 'too few'}</td>
                </tr>
              ))}
            </PlainTable>
          </section>
        )}
        {gains.length > 0 && (
          <section className={classes.chart}>
            <h2>Before and after a unit</h2>
            <PlainTable label="Gain of units" heads={['Unit', 'Learners with both', 'Before', 'After', 'Gain']}>
              {gains.map(({ unit, n, before, after, gain, before_item: first, after_item: last }) => (
                <tr key={unit} className={classes.item}>
                  <td>
                    {unit}
                    <small>
                      {first} · {last}
                    </small>
                  </td>
                  <td>{n}</td>
                  <td>{sayPercent(before, 1)}</td>
                  <td>{sayPercent(after, 1)}</td>
                  <td>
                    {gain === null ? '–' : `${gain >= 0 ? '+' : '−'}${Math.abs(Math.round(gain * 10) / 10)} points`}
                    {gain !== null && before !== null && after !== null && (
                      <Series
                        values={[before, after]}
                        width={44}
                        says={`from ${sayPercent(before, 1)} to ${sayPercent(after, 1)}`}
                      />
                    )}
                  </td>
                </tr>
              ))}
            </PlainTable>
          </section>
        )}
      </div>
    </>
  );
}
