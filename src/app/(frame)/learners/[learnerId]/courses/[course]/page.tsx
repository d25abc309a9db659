import { noteLook } from '@/server/privacy/looks';
import { sayPercent } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayPlatform } from '@/core/completion/platform-says';
import { STATUS_WORDS } from '@/core/completion/progress';
import { sayBehind } from '@/core/completion/pace';
import { MEAN_WORDS, type Means } from '@/core/grades/means';
import { fullName } from '@/core/people/name';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { certificatesShown, type CertificatesShown } from '@/server/people/certificates';
import { GiveCertificate, RevokeCertificate } from './certificate';
import { learnerCourse, type LearnerCourse } from '@/server/completion/learner-course';
import { neighboursOf } from '@/server/completion/neighbours';
import { mayRule } from '@/server/courses/course-rights';
import { isStaffMember } from '@/core/staff/rights';
import { Series } from '@/ui/series';
import { linkTo } from '../../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../../_frame/page-context';
import frameClasses from '../../../../../_frame/frame.module.css';
import { TopBar } from '../../../../../_frame/top-bar';
import { LearnerActions } from '../../learner-actions';
import { NeighbourKeys } from '../../neighbour-keys';
import { ItemTable } from './item-table';
import { PaceChart } from './pace-chart';
import classes from './course-page.module.css';
import { Outputs } from '../../../../../_list/outputs';

export const metadata: Metadata = { title: 'Learner in a course' };

interface Props {
  params: Promise<{ learnerId: string; course: string }>;
  searchParams: SearchParams;
}

const LISTS: Record<string, string> = {
  '/courses/progress': 'Progress',
  '/courses/work-due': 'Work due',
  '/courses/grades': 'Grades',
  '/courses/to-grade': 'To grade',
  '/courses/questions': 'Questions',
  '/watch': 'the Watch',
  '/learners': 'the list',
};

/** The list one came from: only a list of this application's. */
function listOf(from: string | undefined, fallback: string): { href: string; title: string } {
  const known = Object.entries(LISTS).find(
    ([path]) => from === path || from?.startsWith(`${path}?`) || from?.startsWith(`${path}/`),
  );
  return known ? { href: from!, title: known[1] } : { href: fallback, title: 'Progress' };
}

/** Everything of one learner in one course: what is done, what is left, what is late, what it is worth. */
export default async function LearnerCoursePage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { clock, zone } = runtime;
  const { learnerId: id, course: code } = await params;
  const [learnerId, courseCode] = [decodeURIComponent(id), decodeURIComponent(code)];
  const { view, page } = await orNotFound(
    learnerCourse(runtime, viewer, learnerId, courseCode, frame.view.asOf ?? undefined),
  );
  const { enrolled, course, progress, means } = page;
  noteLook(runtime, viewer, { learner: learnerId, what: 'page', subject: `course ${courseCode}` });
  const certificates = await orNotFound(certificatesShown(runtime, viewer, learnerId, courseCode));
  const { now } = view;
  const today = dayOf(now, zone);
  const list = listOf(frame.params.from, linkTo('/courses/progress', { course: courseCode }));
  const beside = await neighboursOf(runtime, viewer, list.href, courseCode, enrolled.enrolmentId);
  const isFull = frame.params.form === 'full';
  const path = `/learners/${encodeURIComponent(learnerId)}/courses/${encodeURIComponent(courseCode)}`;
  const kept = { from: list.href, as_of: frame.asOf, form: isFull ? 'full' : null };
  const other = (one: { learnerId: string; course: string } | null) =>
    one && linkTo(`/learners/${encodeURIComponent(one.learnerId)}/courses/${encodeURIComponent(one.course)}`, kept);
  const [previous, next] = [other(beside.previous), other(beside.next)];
  const overdue = page.items.filter(({ isOverdue }) => isOverdue).length;
  const { pace } = progress;
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <nav className={classes.trail} aria-label="List">
          <Link href={list.href}>Back to {list.title}</Link>
          <span>
            {previous ? <Link href={previous}>Previous</Link> : <span className={classes.soft}>Previous</span>}
            {beside.of > 0 && ` · ${beside.position} of ${beside.of} · `}
            {next ? <Link href={next}>Next</Link> : <span className={classes.soft}>Next</span>}
          </span>
          <NeighbourKeys previous={previous} next={next} />
        </nav>
        <header className={classes.head}>
          <div>
            <h1>
              <Link href={linkTo(`/learners/${encodeURIComponent(learnerId)}`, { from: list.href, as_of: frame.asOf })}>
                <bdi>{fullName(enrolled)}</bdi>
              </Link>{' '}
              in {course.title}
            </h1>
            <div className={classes.soft}>
              {[
                enrolled.learner_id,
                enrolled.group && `group ${enrolled.group}`,
                `enrolled ${sayDay(enrolled.enrolled_day, today)}`,
                enrolled.status === 'active' ? null : enrolled.status,
              ]
                .filter(Boolean)
                .join(' · ')}
            </div>
          </div>
          <span className={classes.actions}>
            <LearnerActions
              person={{ id: enrolled.id, learnerId, name: fullName(enrolled), phone: null }}
              lastContact={null}
              today={dayOf(clock.now(), zone)}
              here={linkTo(path, kept)}
            />
          </span>
        </header>
        <p className={classes.tools}>
          <span className={classes.choices}>
            <Link href={linkTo(path, { ...kept, form: null })} aria-current={isFull ? undefined : 'true'}>
              Short form
            </Link>
            <Link href={linkTo(path, { ...kept, form: 'full' })} aria-current={isFull ? 'true' : undefined}>
              Full form
            </Link>
          </span>
          <Link href={linkTo(`${path}/shown`, { from: list.href })}>What the learner would see</Link>
          <Outputs list="learner-items" params={{ learner: learnerId, course: courseCode }} />
        </p>

        <section className={classes.totals} aria-label="Totals">
          <div>
            <h2>Progress</h2>
            <p className={classes.figure}>
              {progress.done} of {progress.required}
              <small>
                {progress.share === null
                  ? (sayPlatform(progress.platform ?? null, { progress: null, ms: 1 }, zone, now) ??
                    'nothing is required')
                  : `${Math.round(100 * progress.share)} % of required items`}
              </small>
            </p>
            <p>
              {STATUS_WORDS[progress.courseStatus]}
              {progress.completedAt !== null && ` on ${sayDay(dayOf(progress.completedAt, zone), today)}`} ·{' '}
              {sayBehind(pace.behind)}
            </p>
          </div>
          <div>
            <h2>Left</h2>
            <p className={classes.figure}>
              {sayCount(progress.unitsLeft, 'unit')}
              <small>
                {progress.weeksLeft === null
                  ? 'the course has no end'
                  : progress.weeksLeft <= 0
                    ? 'the course has ended'
                    : `${sayCount(progress.weeksLeft, 'week')} left`}
              </small>
            </p>
            <p>
              {progress.unitsPlanned > 0
                ? `${progress.units - progress.unitsLeft} of ${sayCount(progress.unitsPlanned, 'unit')} that plan has behind them`
                : 'no unit was to be done by now'}
              {pace.finishDay !== null && ` · at this pace done ${sayDay(pace.finishDay, today)}`}
            </p>
          </div>
          <div>
            <h2>Overdue</h2>
            <p className={classes.figure} data-bad={overdue > 0 || undefined}>
              {overdue}
              <small>{overdue === 0 ? 'everything due is in' : 'past the date, not handed in'}</small>
            </p>
            <p>{page.attendanceRate === null ? '' : `Attendance ${Math.round(100 * page.attendanceRate)} %`}</p>
          </div>
          <div>
            <h2>Grades</h2>
            <MeansOf means={means} onScale={page.onScale} />
            {page.series.length > 0 && (
              <p>
                <Series
                  values={page.series.slice(-12)}
                  level={page.passMark}
                  width={90}
                  says={`The last ${Math.min(12, page.series.length)} scores`}
                />{' '}
                {page.pattern ?? 'too few for a pattern'}
              </p>
            )}
          </div>
        </section>
        <p className={classes.soft}>{page.saysMeans}</p>
        <Categories page={page} />
        <Certificates
          of={certificates}
          learner={learnerId}
          course={courseCode}
          mayGive={isStaffMember(viewer)}
          sayOn={(at) => sayDay(dayOf(at, zone), today)}
        />

        <section className={classes.section}>
          <h2>Pace against plan</h2>
          <PaceChart
            points={page.pace.map(({ day, planned, done }) => ({ label: sayDay(day, today), planned, done }))}
            required={progress.required}
            asTable={frame.params.table === 'yes'}
            switchHref={linkTo(path, {
              ...kept,
              item: frame.params.item,
              table: frame.params.table === 'yes' ? null : 'yes',
            })}
          />
        </section>

        <section className={classes.section}>
          <h2>Items</h2>
          <ItemTable
            items={page.items}
            learner={enrolled.id}
            name={fullName(enrolled)}
            edges={page.edges}
            isFull={isFull}
            mayChange={isStaffMember(viewer) && frame.asOf === null}
            chosen={frame.params.item}
            zone={zone}
            now={now}
          />
        </section>
        <p className={classes.soft}>
          Minutes are an estimate from the time between clicks. Opens count what was looked at, worked on or talked in.{' '}
          {mayRule(viewer, course.id) && (
            <Link href={linkTo('/courses/items', { course: courseCode })}>How items are done and graded</Link>
          )}
          {` · as of ${sayInstant(now, zone, clock.now())}`}
        </p>
      </div>
    </>
  );
}

function MeansOf({ means, onScale }: { means: Means; onScale: string | null }) {
  return (
    <dl className={classes.means}>
      {(Object.keys(MEAN_WORDS) as (keyof Means)[]).map((name) => (
        <div key={name}>
          <dt>{MEAN_WORDS[name]}</dt>
          <dd>
            {sayPercent(means[name], 1)}
            {name === 'of_whole_course' && onScale !== null && ` · ${onScale}`}
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Categories({ page: { categories, course, attendanceRate } }: { page: LearnerCourse }) {
  if (categories.length === 0 && !course.options.attendance) return null;
  return (
    <p>
      {categories.map(({ name, weight, mean, graded }) => (
        <span key={name} className={classes.category}>
          <strong>{name}</strong> {sayPercent(mean, 1)}
          <span className={classes.soft}>{` (${graded} graded${weight === null ? '' : `, weight ${weight}`})`}</span>
        </span>
      ))}
      {course.options.attendance && (
        <span className={classes.category}>
          <strong>{course.options.attendance.title}</strong>{' '}
          {sayPercent(attendanceRate === null ? null : 100 * attendanceRate, 1)}
          <span className={classes.soft}>{` (weight ${course.options.attendance.weight})`}</span>
        </span>
      )}
    </p>
  );
}

interface CertificatesProps {
  of: CertificatesShown;
  learner: string;
  course: string;
  /** May the viewer give and take back? */
  mayGive: boolean;
  sayOn: (at: number) => string;
}

/** The certificates that were given, and the button that gives one once the course is completed. */
function Certificates({ of, learner, course, mayGive, sayOn }: CertificatesProps) {
  if (!of.mayGive && of.given.length === 0) return null;
  return (
    <section className={classes.section}>
      <h2>Certificate</h2>
      {of.given.map(({ number, givenAt, revokedAt, isTakenBack }) => (
        <div key={number} className={classes.certificate}>
          {revokedAt === null ? (
            <a href={`/certificates/${number}`} target="_blank" rel="noreferrer">
              {number} (PDF)
            </a>
          ) : (
            <s>{number}</s>
          )}{' '}
          <span className={classes.soft}>
            given {sayOn(givenAt)}
            {revokedAt !== null && `, taken back ${sayOn(revokedAt)}`}
            {isTakenBack && '; what the course requires is no longer all done'}
          </span>
          {revokedAt === null && mayGive && <RevokeCertificate number={number} />}
        </div>
      ))}
      {of.mayGive && <GiveCertificate learner={learner} course={course} />}
    </section>
  );
}
