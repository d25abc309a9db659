import { sayShare } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { COURSES, courses, type CourseRow } from '@/server/courses/courses-list';
import { askedOf, listParams, type At, type Params } from '@/server/request/list';
import { ageDays } from '@/server/work/to-grade-list';
import { linkTo } from '../../_list/list-link';
import { SortHead } from '../../_list/sort-head';
import { openFrame, orNotFound, type SearchParams } from '../../_frame/page-context';
import { CourseTabs } from '../../_frame/sections';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import classes from './courses.module.css';
import { Outputs } from '../../_list/outputs';

export const metadata: Metadata = { title: 'Courses' };

/** What a press on a head sorts by first: what needs somebody at the top. */
const FIRST: Partial<Record<string, string>> = { title: 'title', progress: 'progress', active: 'active' };

const HEADS = [
  ['Course', 'title'],
  ['Enrolled', 'enrolled'],
  ['This week', 'active'],
  ['Never seen', 'never'],
  ['Adrift', 'adrift'],
  ['Last session', null],
  ['Progress', 'progress'],
  ['Overdue', 'overdue'],
  ['To grade', 'to_grade'],
  ['Opened by nobody', 'unopened'],
] as const;

/** Each course with what it needs: which of them needs somebody. */
export default async function CoursesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, COURSES);
  const { runtime, viewer } = frame;
  const params = listParams(COURSES, frame.params);
  const list = await orNotFound(courses(runtime, viewer, { ...askedOf(COURSES, params), limit: '1000' }));
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Courses</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'course')} with learners · {sayNeeds(list.rows, list)}
          </span>
          <Outputs list="courses" params={params} />
        </div>
        {list.rows.length === 0 ? (
          <p>
            You see no course with learners yet. Courses come with the programme’s outline, their learners with its
            roster; a lead brings both in under <Link href="/set-up/data">Set-up</Link>.
          </p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Courses">
            <table className={classes.courses}>
              <thead>
                <tr>
                  {HEADS.map(([title, sort]) => (
                    <th key={title} scope="col">
                      {sort === null ? (
                        title
                      ) : (
                        <SortHead
                          title={title}
                          sort={sort}
                          first={FIRST[sort] ?? `-${sort}`}
                          usual="title"
                          path={COURSES.path}
                          params={params}
                          className={classes.sort}
                        />
                      )}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {list.rows.map((row) => (
                  <Course key={row.id} row={row} at={list} kept={{ in: frame.params.in }} />
                ))}
              </tbody>
            </table>
          </div>
        )}
        <p className={classes.soft}>
          Progress is the mean share of required items done; the tick on its line is where plan has it. Overdue counts
          assignments past their date that are not handed in. To grade is what is handed in and has neither grade nor
          feedback.
        </p>
      </div>
    </>
  );
}

/** What of the programme needs somebody, in one line. */
function sayNeeds(rows: readonly CourseRow[], at: At): string {
  const toGrade = rows.reduce((sum, row) => sum + row.toGrade, 0);
  const overdue = rows.reduce((sum, row) => sum + row.overdue, 0);
  const oldest = rows.reduce<number | null>(
    (first, row) => (row.oldest === null ? first : Math.min(first ?? row.oldest, row.oldest)),
    null,
  );
  const since = oldest === null ? '' : `, the oldest for ${sayCount(ageDays(oldest, at), 'day')}`;
  return `${sayCount(overdue, 'assignment')} overdue · ${toGrade === 0 ? 'nothing to grade' : `${toGrade} to grade${since}`}`;
}

function Course({ row, at, kept }: { row: CourseRow; at: At; kept: Params }) {
  const today = dayOf(at.now, at.zone);
  const { code, enrolled, lastSession: last } = row;
  const link = (path: string, more: Params = {}) => linkTo(path, { course: code, ...more });
  // A count opens exactly those whom it counts: of this course, in what the page was narrowed to.
  const people = (asked: Params) =>
    linkTo('/learners', kept.in ? { in: kept.in, course: code, ...asked } : { in: `course:${code}`, ...asked });
  const work = (path: string, asked: Params = {}) => link(path, { ...(kept.in ? { in: kept.in } : {}), ...asked });
  const reading = row.on_course + row.slipping + row.adrift;
  const age = row.oldest === null ? null : ageDays(row.oldest, at);
  return (
    <tr>
      <th scope="row">
        <Link href={link('/courses/progress')}>{row.title}</Link>
        <small>
          {code}
          {row.ends_day !== null && ` · to ${sayDay(row.ends_day, today)}`}
          {row.provisional !== null && ' · provisional'}
        </small>
      </th>
      <td>{enrolled}</td>
      <td>
        {row.active}
        <small>{sayShare(row.active / enrolled)} there</small>
      </td>
      <td data-some={row.never > 0 || undefined}>
        <Link href={people({ never: 'yes' })}>{row.never}</Link>
      </td>
      <td>
        <Link href={people({ band: 'adrift' })}>{row.adrift} adrift</Link>
        <Bands row={row} />
        <small>
          <Link href={people({ band: 'slipping' })}>{row.slipping} slipping</Link> ·{' '}
          <Link href={people({ band: 'on course' })}>{row.on_course} on course</Link>
          {enrolled > reading && ` · ${enrolled - reading} no reading`}
        </small>
      </td>
      <td>
        {last === null ? (
          <span className={classes.soft}>none held</span>
        ) : (
          <>
            <Link href={`/sessions/${encodeURIComponent(last.session_id)}`}>{sayDay(last.day, today)}</Link>
            <small>
              {last.counted > 0
                ? `${Math.round((100 * last.credit) / last.counted)} % there`
                : last.has_roll
                  ? 'nobody counted'
                  : 'no roll taken'}
              {row.attendance !== null && ` · ${sayShare(row.attendance)} in all`}
            </small>
          </>
        )}
      </td>
      <td>
        {sayShare(row.progress)}
        <Plan progress={row.progress} planned={row.planned} />
        <small>{row.planned === null ? 'no plan' : `plan ${sayShare(row.planned)}`}</small>
      </td>
      <td data-some={row.overdue > 0 || undefined}>
        <Link href={work('/courses/work-due', { state: 'any_overdue' })}>{row.overdue}</Link>
        {row.overdueBy > 0 && <small>by {sayCount(row.overdueBy, 'learner')}</small>}
      </td>
      <td data-some={(age ?? 0) >= 7 || undefined}>
        <Link href={work('/courses/to-grade')}>{row.toGrade}</Link>
        {age !== null && <small>oldest {sayCount(age, 'day')}</small>}
      </td>
      <td>
        {row.unopened === null ? (
          <span className={classes.soft}>none</span>
        ) : (
          <>
            <Link href={link('/courses/item-use', { sort: 'openers' })}>{sayCount(row.unopened.count, 'item')}</Link>
            <small title={row.unopened.first}>{row.unopened.first}</small>
          </>
        )}
      </td>
    </tr>
  );
}

/** How its learners stand by drift, as parts of a line: colour and place, with the words beside it. */
function Bands({ row }: { row: CourseRow }) {
  const { enrolled, on_course, slipping, adrift } = row;
  return (
    <span className={classes.bands} aria-hidden="true">
      <i data-band="2" style={{ width: `${(100 * adrift) / enrolled}%` }} />
      <i data-band="1" style={{ width: `${(100 * slipping) / enrolled}%` }} />
      <i data-band="0" style={{ width: `${(100 * on_course) / enrolled}%` }} />
    </span>
  );
}

/** Progress as a line, with a tick where plan has it. */
function Plan({ progress, planned }: { progress: number | null; planned: number | null }) {
  if (progress === null) return null;
  return (
    <span className={classes.plan} aria-hidden="true">
      <i style={{ width: `${100 * progress}%` }} />
      {planned !== null && <b style={{ left: `${100 * planned}%` }} />}
    </span>
  );
}
