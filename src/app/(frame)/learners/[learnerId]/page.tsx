import { Group, TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { bandWord } from '@/core/drift/bands';
import type { EnrolmentShown } from '@/core/contact/person';
import { sayDay, sayDaysAgo, sayInstant, sayLength, sayList } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { coursesWithGroups } from '@/server/people/reads';
import { learnerExtras, learnerPage, positionOnWatch, type LearnerExtras } from '@/server/people/learner-page';
import { readWatchFilter } from '@/server/drift/watch';
import { backupsMade } from '@/server/backup/made';
import { erasedOn } from '@/server/privacy/erasing';
import { noteLook } from '@/server/privacy/looks';
import { openDriftView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';
import { CALL_OUTCOMES } from '@/core/contact/call';
import { WISH_WORDS } from '@/core/contact/wishes';
import { MESSAGE_STATE_WORDS } from '@/core/contact/message-state';
import { PlainTable } from '@/ui/plain-table';
import { Contact } from '@/ui/contact';
import { isStaffMember } from '@/core/staff/rights';
import { RaiseFlare } from '../../flares/flare-buttons';
import { StartWriting } from '../../write/start-writing';
import { Gauge } from '@/ui/gauge';
import { Reasons } from '@/ui/reasons';
import { Wake } from '@/ui/wake';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type FrameContext, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { ClaimCheck } from './claim-check';
import { Details } from './details';
import { EnrolmentActions, RecordActions } from './enrolment-actions';
import { History } from './history';
import { LearnerActions } from './learner-actions';
import { NeighbourKeys } from './neighbour-keys';
import { Sessions } from './sessions';
import { Story } from './story';
import { ErasureNotice, TheirData } from './their-data';
import { WishesButton } from './wishes';
import classes from './learner.module.css';

export const metadata: Metadata = { title: 'Learner' };

interface Props {
  params: Promise<{ learnerId: string }>;
  searchParams: SearchParams;
}

/** The list one came from: only a list of this application's. */
function listOf(from: string | undefined): { href: string; title: string } {
  const lists = { '/watch': 'the Watch', '/learners': 'the list', '/follow-ups': 'Follow-ups' };
  const known = Object.entries(lists).find(([path]) => from === path || from?.startsWith(`${path}?`));
  return known ? { href: from!, title: known[1] } : { href: '/watch', title: 'the Watch' };
}

/** One's place on the Watch, with its part, day and band, when one came from there. */
async function positionInList(frame: FrameContext, from: string, id: number) {
  if (!from.startsWith('/watch')) return null;
  const query = Object.fromEntries(new URL(from, 'http://list').searchParams);
  const filter = readWatchFilter(query);
  const names = segmentNames(query.in);
  const view = await orNotFound(openDriftView(frame.runtime, frame.viewer, names, frame.asOf ?? undefined));
  return positionOnWatch(frame.runtime, view, filter, id);
}

export default async function LearnerPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, view } = frame;
  const { clock, zone } = runtime;
  const { now } = view;
  const today = dayOf(now, zone);
  const learnerId = decodeURIComponent((await params).learnerId);
  const person = await orNotFound(learnerPage(runtime, view, learnerId));
  noteLook(runtime, frame.viewer, { learner: person.id, what: 'page' });
  const list = listOf(frame.params.from);
  const [place, extras] = await Promise.all([
    positionInList(frame, list.href, person.id),
    learnerExtras(runtime, view, person),
  ]);
  const until = extras.lead ? await erasedOn(runtime, person.id) : null;
  const erasedIn = until === null ? null : sayInstant(until, zone, now);
  const courses = extras.lead ? await coursesWithGroups(runtime) : [];
  const path = `/learners/${encodeURIComponent(person.learnerId)}`;
  const colleagues = extras.crew.filter(({ id }) => id !== frame.viewer.staffId);
  const kept = { from: frame.params.from ? list.href : null, in: frame.segmentKey, as_of: frame.asOf };
  const here = linkTo(path, kept);
  const other = (id: string) => linkTo(`/learners/${encodeURIComponent(id)}`, { ...kept, from: list.href });
  const links = {
    previous: place?.previous ? other(place.previous) : null,
    next: place?.next ? other(place.next) : null,
  };
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <nav className={classes.trail} aria-label="List">
          <Link href={list.href}>Back to {list.title}</Link>
          {place && (
            <span>
              {links.previous ? (
                <Link href={links.previous}>Previous</Link>
              ) : (
                <span className={classes.soft}>Previous</span>
              )}
              {` · ${place.position} of ${place.of} · `}
              {links.next ? <Link href={links.next}>Next</Link> : <span className={classes.soft}>Next</span>}
            </span>
          )}
          <NeighbourKeys previous={links.previous} next={links.next} />
        </nav>
        {erasedIn !== null && <ErasureNotice learnerId={person.learnerId} until={erasedIn} />}
        <header className={classes.head}>
          <Gauge score={person.score} band={person.band} size="page" />
          <div>
            <h1>
              <bdi>{person.name}</bdi>
            </h1>
            <div className={classes.soft}>
              {[person.learnerId, person.organisation ?? 'on their own', person.isProvisional && 'provisional']
                .filter(Boolean)
                .join(' · ')}{' '}
              · {bandWord(person.band)}
              {person.score !== null && `, drift ${Math.round(person.score)}`}
            </div>
          </div>
          <Contact email={person.email} phone={person.phone} />
          <LearnerActions
            person={{ id: person.id, learnerId: person.learnerId, name: person.name, phone: person.phone }}
            lastContact={person.contacts[0]?.says ?? null}
            today={dayOf(clock.now(), zone)}
            here={here}
          />
        </header>

        <Tried extras={extras} now={now} zone={zone} />

        <section className={classes.section}>
          <h2>The last 12 weeks</h2>
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Wake of 12 weeks">
            <Wake
              wake={person.wake}
              width={840}
              height={64}
              dayHref={(day) =>
                linkTo('/access-log', {
                  in: frame.segmentKey,
                  learner: person.learnerId,
                  from: dateOfDay(day),
                  to: dateOfDay(day + 1),
                })
              }
            />
          </div>
          <p className={classes.soft}>
            A bar is a day’s minutes online, {sayDay(person.wake.firstDay, today)} to {sayDay(today)}; weekends on sand,
            a notch where an item fell due, hatching where the log is incomplete; on the line a full disc for a session
            attended, an open one for one missed, a dash for one excused. Time online is an estimate: from each event to
            the next, up to 30 minutes apart, and one minute for the last of a visit. Being there is not the same as
            reading.
          </p>
        </section>

        <section className={classes.section}>
          <h2>Where they stand</h2>
          {person.enrolments.map((enrolment) => (
            <Enrolment
              key={enrolment.courseId}
              enrolment={enrolment}
              learnerId={person.learnerId}
              now={now}
              zone={zone}
            >
              {extras.lead && (
                <EnrolmentActions
                  enrolmentId={enrolment.id}
                  course={enrolment.course}
                  active={enrolment.status === 'active'}
                  group={enrolment.group}
                  courses={courses}
                />
              )}
            </Enrolment>
          ))}
          {(extras.mayMerge || extras.merged) && (
            <RecordActions
              learnerId={person.id}
              name={person.name}
              courses={courses}
              lead={extras.lead}
              mayMerge={extras.mayMerge}
              merged={extras.merged && { gone: extras.merged.gone, at: sayDaysAgo(extras.merged.at, now, zone) }}
            />
          )}
        </section>

        <History
          frame={frame}
          learnerId={person.id}
          learner={person.learnerId}
          courses={person.enrolments.map(({ courseId, course, title }) => ({ courseId, course, title }))}
          path={path}
          kept={kept}
        />
        <Sessions
          frame={frame}
          learnerId={person.id}
          courses={person.enrolments.map(({ courseId, course, title }) => ({ courseId, course, title }))}
          path={path}
          kept={kept}
        />

        <section className={classes.section}>
          <h2>Crew</h2>
          <p className={classes.soft}>
            Everybody around {person.name}: the staff of their courses, and whom one may speak to outside.
          </p>
          <Crew crew={extras.crew} />
          {isStaffMember(frame.viewer) && (
            <Group gap={8}>
              <RaiseFlare learner={person.id} name={person.name} colleagues={colleagues} />
              <WishesButton learnerId={person.id} name={person.name} wishes={extras.wishes.map(({ wish }) => wish)} />
              {colleagues.length > 0 && (
                <StartWriting learners={[person.id]} begin={{ receivers: 'crew' }} here={path}>
                  Write to the crew…
                </StartWriting>
              )}
            </Group>
          )}
          {extras.wishes.length > 0 && (
            <p>
              <strong>Wishes to be written to</strong>{' '}
              {extras.wishes
                .map(({ wish, by, at }) => `${WISH_WORDS[wish]} (${by ?? 'themselves'}, ${sayInstant(at, zone, now)})`)
                .join(', ')}
            </p>
          )}
          <Details learnerId={person.id} details={extras.details} contacts={extras.contacts} lead={extras.lead} />
        </section>

        <ClaimCheck
          frame={frame}
          learnerId={person.id}
          learner={person.learnerId}
          courses={person.enrolments.map(({ course, title }) => ({ course, title }))}
          path={path}
          kept={kept}
        />
        <p className={classes.links}>
          <Link href={linkTo(`${path}/everything`, { in: frame.segmentKey, as_of: frame.asOf })}>
            Everything they did, by visit and week
          </Link>
          <Link href={linkTo('/access-log', { in: frame.segmentKey, as_of: frame.asOf, learner: person.learnerId })}>
            Their access log
          </Link>
          <Link href={linkTo(`${path}/conversation`, kept)}>The conversation with {person.name}</Link>
        </p>
        {extras.lead && (
          <section className={classes.section}>
            <h2>Their data</h2>
            <p className={classes.soft}>
              What is kept of {person.name}, where it came from and who looked at it. It is theirs to ask for.
            </p>
            <TheirData
              learnerId={person.learnerId}
              name={person.name}
              until={erasedIn}
              backups={(await backupsMade(runtime)).map(({ file }) => file)}
            />
            <p className={classes.links}>
              <Link href={linkTo('/set-up/looks', { learner: person.learnerId })}>Who looked at {person.name}</Link>
            </p>
          </section>
        )}
        <Story frame={frame} learnerId={person.id} path={path} kept={kept} />
      </div>
    </>
  );
}

/** What has been tried, and what came of it; and the notes that somebody has pinned: read before anything else. */
function Tried({ extras: { tried, pinned }, now, zone }: { extras: LearnerExtras; now: number; zone: string }) {
  if (tried.length === 0 && pinned.length === 0) return null;
  return (
    <section className={classes.section}>
      <h2>What has been tried</h2>
      {pinned.map((note) => (
        <p key={note.id} className={classes.text} dir="auto">
          {note.body}{' '}
          <span className={classes.soft}>
            {[`note by ${note.by}`, sayInstant(note.at, zone, now), ...note.labels].join(' · ')}
          </span>
        </p>
      ))}
      {tried.length > 0 && (
        <PlainTable label="What has been tried" heads={['When', 'How', 'By', 'What came of it']}>
          {tried.map((one) => (
            <TableTr key={`${one.kind} ${one.id}`}>
              <TableTd>{sayInstant(one.at, zone, now)}</TableTd>
              <TableTd>{sayHow(one)}</TableTd>
              <TableTd>
                <bdi>{one.mine ? 'you' : one.by}</bdi>
              </TableTd>
              <TableTd>
                <bdi>{sayCameOf(one, zone, now)}</bdi>
              </TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
    </section>
  );
}

const HOW = { email: 'e-mail', sms: 'text message', call: 'call' } as const;

function sayHow({ kind, outcome, subject }: LearnerExtras['tried'][number]): string {
  if (outcome === 'met') return 'met in person';
  return subject === '' ? HOW[kind] : `${HOW[kind]}: ${subject}`;
}

function sayCameOf(one: LearnerExtras['tried'][number], zone: string, now: number): string {
  const says = [
    one.outcome === null || one.outcome === 'met' ? '' : CALL_OUTCOMES[one.outcome].says,
    one.kind === 'call' ? one.body : '',
    one.answer === null ? '' : `“${one.answer}”`,
    one.cameBack === null ? '' : `came back ${sayInstant(one.cameBack, zone, now)}`,
  ].filter(Boolean);
  return (
    says.join(' · ') || (one.state === null || one.state === 'sent' ? 'nothing yet' : MESSAGE_STATE_WORDS[one.state])
  );
}

/** The staff around somebody, each with what they are theirs by. */
function Crew({ crew }: { crew: LearnerExtras['crew'] }) {
  if (crew.length === 0) return <p className={classes.soft}>No member of staff is set for their courses or groups.</p>;
  return crew.map(({ id, name, role, by, courses, email }) => (
    <div key={id} className={classes.other}>
      <strong>
        <bdi>{name}</bdi>
      </strong>
      <span className={classes.soft}>{role}</span>
      <span>
        <a href={`mailto:${email}`}>{email}</a>
      </span>
      <span className={classes.soft}>{courses.length > 0 ? `by ${by}: ${sayList(courses)}` : 'by caseload'}</span>
    </div>
  ));
}

interface EnrolmentProps {
  enrolment: EnrolmentShown;
  learnerId: string;
  now: number;
  zone: string;
  children: React.ReactNode;
}

function Enrolment({ enrolment, learnerId, now, zone, children }: EnrolmentProps) {
  const today = dayOf(now, zone);
  const { lastAccess, daysQuiet, ms, status } = enrolment;
  const active = status === 'active';
  return (
    <div className={classes.enrolment}>
      <div>
        <h3>
          <Link href={linkTo('/access-log', { course: enrolment.course, learner: learnerId })}>{enrolment.title}</Link>
          {enrolment.group && <span className={classes.soft}> · {enrolment.group}</span>}
        </h3>
        <dl>
          <dt>Enrolled</dt>
          <dd>
            {sayDay(enrolment.enrolledDay, today)}
            {!active && `, ${status}${enrolment.endedDay === null ? '' : ` ${sayDay(enrolment.endedDay, today)}`}`}
          </dd>
          <dt>Last access</dt>
          <dd>{lastAccess === null ? 'never' : sayInstant(lastAccess, zone, now)}</dd>
          <dt>Days quiet</dt>
          <dd>{daysQuiet ?? 'never accessed'}</dd>
          <dt>Time online</dt>
          <dd>about {sayLength(ms)}</dd>
          <dt>Work</dt>
          <dd>
            <Link href={`/learners/${encodeURIComponent(learnerId)}/courses/${encodeURIComponent(enrolment.course)}`}>
              Every item
            </Link>
            {enrolment.progress !== null && ` · progress ${Math.round(100 * enrolment.progress)} %`}
            {enrolment.platform !== null && ` · ${enrolment.platform}`}
            {enrolment.overdue !== null && enrolment.overdue > 0 && ` · ${enrolment.overdue} overdue`}
            {enrolment.onGraded !== null && ` · ${Math.round(enrolment.onGraded)} % on graded work`}
          </dd>
        </dl>
        {children}
      </div>
      {active && (
        <div>
          <h3>
            {enrolment.score === null
              ? 'No reading'
              : `${bandWord(enrolment.band)[0].toUpperCase()}${bandWord(enrolment.band).slice(1)}, drift ${Math.round(enrolment.score)}`}
            {enrolment.change !== null && enrolment.change !== 0 && (
              <span className={classes.soft}>
                {' '}
                · {enrolment.change > 0 ? 'up' : 'down'} {Math.abs(enrolment.change)} in a week
              </span>
            )}
          </h3>
          <Reasons enrolment={enrolment} learnerId={learnerId} />
        </div>
      )}
    </div>
  );
}
