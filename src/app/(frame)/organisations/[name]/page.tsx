import type { Metadata } from 'next';
import Link from 'next/link';
import { GOOD_NEWS_WORDS } from '@/core/good-news/good-news';
import { sayShare } from '@/core/percent';
import { sayCount, sayDay, sayList } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { organisationPage, type OrganisationPage } from '@/server/people/organisation-page';
import { READY_REPORTS } from '@/server/reports/ready';
import { paramsOf } from '@/server/reports/link';
import { Gauge } from '@/ui/gauge';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../_list/list-link';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../../courses/courses.module.css';

export const metadata: Metadata = { title: 'Organisation' };

/** Of those who completed, on the page. */
const COMPLETED_SHOWN = 30;
/** Names said of a change. */
const NAMED = 8;

interface Props {
  params: Promise<{ name: string }>;
  searchParams: SearchParams;
}

/** One partner organisation, as its coordinator and the programme's staff see it. */
export default async function OrganisationPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const name = decodeURIComponent((await params).name);
  const page = await orNotFound(organisationPage(runtime, viewer, name));
  const { row, courses, needing, allNeeding, completed, now } = page;
  const today = dayOf(now, runtime.zone);
  const place = `organisation:${row.name}`;
  const reports = [
    ['an-organisation', 'Report on the organisation'],
    ['who-is-quiet', 'Who is quiet'],
    ['end-of-term', 'End of term'],
  ] as const;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <p>
          <Link href="/organisations">All organisations</Link>
        </p>
        <h1>
          <bdi>{row.name}</bdi>
        </h1>
        <p>
          <Link href={linkTo('/learners', { in: place, status: 'all' })}>
            {sayCount(row.people, 'person', 'people')}
          </Link>{' '}
          in {sayCount(row.courses, 'course')} ·{' '}
          {row.attendance === null ? 'no attendance counted yet' : `attendance ${sayShare(row.attendance)}`} ·{' '}
          <Link href={linkTo('/watch', { in: place })}>their Watch</Link>
        </p>
        <p className={classes.choices}>
          {reports.map(([id, title]) => (
            <Link
              key={id}
              href={linkTo('/reports/choose', { ...paramsOf(READY_REPORTS[id].definition, id), in: place })}
            >
              {title}
            </Link>
          ))}
        </p>

        <section className={classes.chart}>
          <h2>Who needs somebody now</h2>
          {needing.length === 0 ? (
            <p>Nobody is slipping or adrift today.</p>
          ) : (
            <PlainTable label="Who needs somebody now" heads={['Learner', 'Course', 'Why', 'Last contact']}>
              {needing.map((person) => (
                <tr key={person.id} className={classes.item}>
                  <td>
                    <span className={classes.gauged}>
                      <Gauge score={person.score} band={person.band} />
                      <PersonLink learnerId={person.learnerId} name={person.name} />
                    </span>
                  </td>
                  <td>{person.enrolments.map(({ title }) => title).join(', ')}</td>
                  <td>{person.enrolments[0]?.reasons[0]?.whole ?? ''}</td>
                  <td>{person.contacts[0]?.says ?? <span className={classes.soft}>nobody has tried</span>}</td>
                </tr>
              ))}
            </PlainTable>
          )}
          {allNeeding > needing.length && (
            <Link href={linkTo('/watch', { in: place })}>All {allNeeding} of them on the Watch</Link>
          )}
        </section>

        <Changes page={page} today={today} />

        <section className={classes.chart}>
          <h2>By course</h2>
          <PlainTable
            label="By course"
            heads={['Course', 'Not started', 'Under way', 'Completed', 'Certified', 'Ended without completing']}
          >
            {courses.map(({ course, title, counts }) => (
              <tr key={course} className={classes.item}>
                <td>{title}</td>
                <td>{counts.not_started}</td>
                <td>{counts.under_way}</td>
                <td>{counts.completed}</td>
                <td>{counts.certified}</td>
                <td>{counts.ended}</td>
              </tr>
            ))}
          </PlainTable>
        </section>

        {completed.length > 0 && (
          <section className={classes.chart}>
            <h2>Completed</h2>
            <PlainTable label="Completed" heads={['Learner', 'Course', 'On', '']}>
              {completed.slice(0, COMPLETED_SHOWN).map((one) => (
                <tr key={one.id} className={classes.item}>
                  <td>
                    <PersonLink learnerId={one.learner_id} name={one.name} />
                  </td>
                  <td>{one.title}</td>
                  <td>{one.day === null ? 'by the roster' : sayDay(one.day, today)}</td>
                  <td>{one.stand === 'certified' && 'certified'}</td>
                </tr>
              ))}
            </PlainTable>
            {completed.length > COMPLETED_SHOWN && (
              <p className={classes.soft}>
                {completed.length - COMPLETED_SHOWN} more stand in the report on the organisation.
              </p>
            )}
          </section>
        )}
        <p className={classes.soft}>
          Each enrolment counts in one place: not started without any event ever; completed with all that is required
          done or by the roster; certified where the course’s pass mark is reached as well.
        </p>
      </div>
    </>
  );
}

const SAYS = {
  enrolled: 'enrolled',
  started: 'began',
  completed: 'completed',
  ended: 'ended without completing',
} as const;

function Changes({ page: { since, changed, news }, today }: { page: OrganisationPage; today: number }) {
  const some = (Object.keys(SAYS) as (keyof typeof SAYS)[]).filter((what) => changed[what].length > 0);
  return (
    <section className={classes.chart}>
      <h2>
        This month <span className={classes.soft}>since {sayDay(since, today)}</span>
      </h2>
      {some.length === 0 && news.length === 0 && <p>Nothing has changed this month.</p>}
      <ul className={classes.notable}>
        {some.map((what) => {
          const names = changed[what].slice(0, NAMED).map((one) => `${one.name} (${one.course})`);
          const more = changed[what].length - names.length;
          return (
            <li key={what}>
              <strong>
                {changed[what].length} {SAYS[what]}
              </strong>
              : <bdi>{sayList(more > 0 ? [...names, `${more} more`] : names)}</bdi>
            </li>
          );
        })}
        {news.map((one) => (
          <li key={one.key}>
            <PersonLink learnerId={one.learner_id} name={one.name} />: {GOOD_NEWS_WORDS[one.what]}{' '}
            <span className={classes.soft}>
              {one.says} {sayDay(one.on, today)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
