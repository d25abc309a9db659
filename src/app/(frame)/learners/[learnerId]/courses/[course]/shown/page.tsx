import { noteLook } from '@/server/privacy/looks';
import { sayPercent } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { MEAN_WORDS, type Means } from '@/core/grades/means';
import { fullName } from '@/core/people/name';
import { sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { firstHandIn } from '@/core/work/attempt';
import { DUE_WORDS } from '@/core/work/due';
import { groupAverages, learnerCourse } from '@/server/completion/learner-course';
import { mayRule } from '@/server/courses/course-rights';
import { Feedback } from '@/ui/feedback';
import { StateForm } from '@/ui/state-form';
import { linkTo } from '../../../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../../../_frame/page-context';
import frameClasses from '../../../../../../_frame/frame.module.css';
import { TopBar } from '../../../../../../_frame/top-bar';
import classes from '../course-page.module.css';
import { PrintButton } from '../../../../../../_list/outputs';

export const metadata: Metadata = { title: 'What the learner would see' };

interface Props {
  params: Promise<{ learnerId: string; course: string }>;
  searchParams: SearchParams;
}

/** The page of a learner in a course as the learner may have it: no drift, no band, no note, nobody else. */
export default async function ShownPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { zone } = runtime;
  const { learnerId: id, course: code } = await params;
  const [learnerId, courseCode] = [decodeURIComponent(id), decodeURIComponent(code)];
  const { view, page } = await orNotFound(learnerCourse(runtime, viewer, learnerId, courseCode));
  noteLook(runtime, viewer, { learner: learnerId, what: 'page', subject: `course ${courseCode}, as shown to them` });
  const { course, enrolled, progress, means, shown } = page;
  const { now } = view;
  const today = dayOf(now, zone);
  const averages = shown.average ? await groupAverages(runtime, view, page) : null;
  const path = `/learners/${encodeURIComponent(learnerId)}/courses/${encodeURIComponent(courseCode)}`;
  const heads = ['Item', 'Where you stand', 'Due and handed in', 'Score', ...(shown.minutes ? ['Time'] : [])];
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <nav className={classes.trail} aria-label="Page">
          <Link href={linkTo(path, { from: frame.params.from })}>Back to the page with everything</Link>
          {mayRule(viewer, course.id) && (
            <Link href={linkTo('/courses/settings', { course: course.code })}>
              Choose what every learner of {course.code} is shown
            </Link>
          )}
          <PrintButton />
        </nav>
        <h1>
          {course.title}: <bdi>{fullName(enrolled)}</bdi>
        </h1>
        <p className={classes.soft}>As of {sayInstant(now, zone)}</p>
        <p>
          {progress.done} of {progress.required} required items are done
          {progress.completedAt !== null &&
            `; everything was done on ${sayDay(dayOf(progress.completedAt, zone), today)}`}
          .{page.attendanceRate !== null && ` Attendance: ${Math.round(100 * page.attendanceRate)} %.`}
        </p>
        {shown.means && (
          <>
            <dl className={classes.means} style={{ maxWidth: 320 }}>
              {(Object.keys(MEAN_WORDS) as (keyof Means)[]).map((name) => (
                <div key={name}>
                  <dt>{MEAN_WORDS[name]}</dt>
                  <dd>{sayPercent(means[name], 1)}</dd>
                </div>
              ))}
            </dl>
            <p className={classes.soft}>{page.saysMeans}</p>
          </>
        )}
        {shown.weights && page.categories.length > 0 && (
          <p>
            {page.categories
              .map(({ name, weight }) => `${name}${weight === null ? '' : `: weight ${weight}`}`)
              .concat(
                course.options.attendance
                  ? [`${course.options.attendance.title}: weight ${course.options.attendance.weight}`]
                  : [],
              )
              .join(' · ')}
          </p>
        )}
        <div className={classes.scroll} tabIndex={0} role="group" aria-label="Items">
          <table className={classes.items}>
            <thead>
              <tr>
                {heads.map((head) => (
                  <th key={head} scope="col">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {page.items.map((item) => {
                const handedIn = firstHandIn(item.attempts);
                const feedback = item.attempts.findLast((attempt) => attempt.feedback !== null)?.feedback;
                const average = averages?.get(item.item.id);
                return (
                  <tr key={item.item.id}>
                    <th scope="row">
                      {item.item.title}
                      <small>
                        {[item.item.unit, item.item.required ? null : 'not required'].filter(Boolean).join(' · ')}
                      </small>
                    </th>
                    <td>
                      <StateForm state={item.state.state} />
                      <small>{item.state.left.join('; ')}</small>
                    </td>
                    <td>
                      {item.dueAt !== null && `due ${sayInstant(item.dueAt, zone, now)}`}
                      <small>
                        {item.dueState !== null && DUE_WORDS[item.dueState]}
                        {handedIn !== null && ` ${sayInstant(handedIn, zone, now)}`}
                      </small>
                    </td>
                    <td>
                      {item.counting !== null && (
                        <>
                          {Math.round(item.counting.score * 10) / 10} of {Math.round(item.counting.points * 10) / 10}
                          {shown.percentages && ` · ${Math.round(100 * item.counting.share)} %`}
                        </>
                      )}
                      {average !== undefined && <small>the group’s average {Math.round(average)} %</small>}
                      {shown.feedback && feedback && <Feedback text={feedback} />}
                    </td>
                    {shown.minutes && <td>{item.ms > 0 ? `about ${sayLength(item.ms)}` : ''}</td>}
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      </div>
    </>
  );
}
