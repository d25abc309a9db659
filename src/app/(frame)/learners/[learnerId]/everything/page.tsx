import { noteLook } from '@/server/privacy/looks';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayWorkingHours } from '@/core/access/when';
import { sayCount, sayDay, sayInstant, sayLength, sayTime } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import type { EventRow, VisitRow } from '@/data/access/visits';
import { everythingOf, type Everything } from '@/server/access/everything';
import { incompleteDays, sayGapDays } from '@/server/feed/feed';
import { InvalidInput } from '@/server/request/input';
import { learnerPage } from '@/server/people/learner-page';
import { HeatStrip } from '@/ui/heat-strip';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type FrameContext, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import classes from '../learner.module.css';
import { ByWeek } from './by-week';
import { PeriodForm } from './period-form';
import { Visits, type SaidVisit } from './visits';
import { PrintButton } from '../../../../_list/outputs';

export const metadata: Metadata = { title: 'Everything' };

interface Props {
  params: Promise<{ learnerId: string }>;
  searchParams: SearchParams;
}

async function read({ runtime, view, params }: FrameContext, id: number) {
  const { from, to } = params;
  try {
    return { ...(await everythingOf(runtime, view, id, { from, to })), fault: null };
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return { ...(await everythingOf(runtime, view, id, {})), fault: error.message };
  }
}

/** One learner, everything, from the first event to the last, by visit. */
export default async function EverythingPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, view } = frame;
  const { zone } = runtime;
  const person = await orNotFound(learnerPage(runtime, view, decodeURIComponent((await params).learnerId)));
  noteLook(runtime, view.viewer, { learner: person.id, what: 'page', subject: 'everything' });
  const all = await read(frame, person.id);
  const path = `/learners/${encodeURIComponent(person.learnerId)}`;
  const kept = { in: frame.segmentKey, as_of: frame.asOf };
  const today = dayOf(view.now, zone);
  const gaps = await incompleteDays(
    runtime,
    person.enrolments.map(({ courseId }) => courseId),
    { to: view.now },
  );
  const within = gaps.filter(([a, b]) => (all.from === null || b >= all.from) && (all.to === null || a <= all.to));
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <p className={classes.noPrint}>
          <Link href={linkTo(path, kept)}>Back to {person.name}</Link>
        </p>
        <div className={classes.head}>
          <div>
            <h1>
              Everything <bdi>{person.name}</bdi> did
            </h1>
            <div className={classes.soft}>
              {person.learnerId} · {sayShown(all, today)}
            </div>
          </div>
          <span className={classes.noPrint}>
            <PrintButton />
          </span>
        </div>
        <PeriodForm path={`${path}/everything`} kept={kept} from={frame.params.from} to={frame.params.to} />
        {all.fault && (
          <p role="alert" className={classes.alarm}>
            The period cannot be shown: {all.fault}. All of the time is shown instead.
          </p>
        )}
        <p>
          {sayCount(all.visits, 'visit')}, {sayCount(all.events, 'event')}, about {sayLength(all.ms)} online (an
          estimate).
          {within.length > 0 && ` Log incomplete ${sayGapDays(within, today)}.`}{' '}
          <Link className={classes.noPrint} href={linkTo('/access-log', { ...kept, learner: person.learnerId })}>
            In the access log
          </Link>
        </p>
        {all.visits > 0 && <When all={all} />}
        {all.weeks.length === 0 && (
          <p>
            {all.from === null && all.to === null
              ? 'No log that was brought in has an event of theirs.'
              : 'Nothing in this time.'}
          </p>
        )}
        {all.weeks.length > 1 && (
          <ByWeek
            weeks={all.weeks}
            gaps={within}
            today={today}
            from={(day) => linkTo(`${path}/everything`, { ...kept, from: dateOfDay(day), to: frame.params.to })}
          />
        )}
        {all.weeks
          .map((week) => ({ ...week, here: week.visits.filter(({ shown }) => shown !== null) }))
          .filter(({ here }) => here.length > 0)
          .map(({ monday, visits, here, activeDays, events, ms }) => (
            <section key={monday} className={classes.section} id={`week-${dateOfDay(monday)}`}>
              <h2>
                Week of {sayDay(monday, today)}{' '}
                <span className={classes.soft}>
                  {sayCount(visits.length, 'visit')} on {sayCount(activeDays, 'day')}, {sayCount(events, 'event')},
                  about {sayLength(ms)}
                  {here.length < visits.length && `; ${here.length} of them here`}
                </span>
              </h2>
              <Visits visits={here.map((visit) => sayVisit(visit, visit.shown ?? [], zone, view.now))} />
            </section>
          ))}
        {all.next !== null && (
          <p className={classes.noPrint}>
            <Link href={linkTo(`${path}/everything`, { ...kept, from: dateOfDay(all.next), to: frame.params.to })}>
              Go on from {sayDay(all.next, today)}
            </Link>
          </p>
        )}
      </div>
    </>
  );
}

function sayShown({ from, to, next }: Everything, today: number): string {
  const start = from === null ? 'from the first event' : `from ${sayDay(from, today)}`;
  const end = next !== null ? `to ${sayDay(next - 1, today)}` : to === null ? 'to the last' : `to ${sayDay(to, today)}`;
  return `${start} ${end}`;
}

/** When they study, and how much of it in working hours. */
function When({ all }: { all: Everything }) {
  const { share, hours, zone } = all.working;
  return (
    <section className={classes.section}>
      <h2>When they study</h2>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Hours by days of the week">
        <HeatStrip hours={all.hours} working={hours} />
      </div>
      <p className={classes.soft}>
        {share === null ? '' : `${Math.round(100 * share)} % of the time lies in working hours `}(
        {sayWorkingHours(hours)}, {zone}; outlined). The stronger the colour, the more minutes.
      </p>
    </section>
  );
}

/** A visit in words, neighbours of one item on one line. */
function sayVisit(visit: VisitRow, events: readonly EventRow[], zone: string, now: number): SaidVisit {
  const runs: EventRow[][] = [];
  for (const event of events) {
    const run = runs.at(-1);
    if (run && run[0].course === event.course && run[0].item_id === event.item_id) run.push(event);
    else runs.push([event]);
  }
  return {
    title: `${sayInstant(visit.first, zone, now)} to ${sayTime(visit.last, zone)}`,
    length: `about ${sayLength(visit.ms)}`,
    lines: runs.map((run) => [sayTime(run[0].at, zone), run[0].course, run[0].item ?? 'the course', sayActions(run)]),
  };
}

/** "opened, answered 3 times, submitted". */
function sayActions(run: readonly EventRow[]): string {
  const counts = new Map<string, number>();
  for (const { action } of run) counts.set(action, (counts.get(action) ?? 0) + 1);
  return [...counts]
    .map(([action, count]) => `${action.replaceAll('_', ' ')}${count > 1 ? ` ${count} times` : ''}`)
    .join(', ');
}
