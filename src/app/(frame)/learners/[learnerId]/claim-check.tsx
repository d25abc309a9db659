import { Button, NativeSelect } from '@mantine/core';
import Link from 'next/link';
import { sayCount, sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dateOfDay, dayOf, weekday } from '@/core/time/zone';
import { checkClaim, type Claim } from '@/server/access/claim';
import { InvalidInput } from '@/server/request/input';
import { DayField } from '../../../_frame/day-field';
import { linkTo } from '../../../_list/list-link';
import type { FrameContext } from '../../../_frame/page-context';
import classes from './learner.module.css';

interface Props {
  frame: FrameContext;
  learnerId: number;
  /** Their own id, for links. */
  learner: string;
  courses: { course: string; title: string }[];
  /** This page's address and the parameters that stay. */
  path: string;
  kept: Record<string, string | null>;
}

/** "Says they worked last week": a period, the verdict, and the rows behind it. */
export async function ClaimCheck({ frame, learnerId, learner, courses, path, kept }: Props) {
  const { runtime, view, params } = frame;
  const { zone } = runtime;
  const today = dayOf(view.now, zone);
  const monday = today - weekday(today);
  const periods = [
    { title: 'this week', from: monday, to: today },
    { title: 'last week', from: monday - 7, to: monday - 1 },
    { title: 'last 14 days', from: today - 13, to: today },
  ];
  const asked = params.claim_from !== undefined;
  let claim: Claim | null = null;
  let fault: string | null = null;
  if (asked) {
    try {
      const { claim_from: from, claim_to: to, claim_course: course } = params;
      claim = await checkClaim(runtime, view, learnerId, { from, to, course });
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      fault = error.errors.map((error) => `The date ${error.field} ${error.message}.`).join(' ');
    }
  }
  return (
    <section className={classes.section} id="claim">
      <h2>Claim check</h2>
      <p className={classes.soft}>“I worked on it last week”: pick the period and see what there is.</p>
      <form action={`${path}#claim`} className={classes.claim}>
        {Object.entries(kept).map(
          ([name, value]) => value && <input key={name} type="hidden" name={name} value={value} />,
        )}
        <DayField
          name="claim_from"
          label="From"
          size="xs"
          defaultValue={params.claim_from ?? dateOfDay(periods[1].from)}
          key={`from ${params.claim_from}`}
        />
        <DayField
          name="claim_to"
          label="To"
          size="xs"
          defaultValue={params.claim_to ?? dateOfDay(periods[1].to)}
          key={`to ${params.claim_to}`}
        />
        {courses.length > 1 && (
          <NativeSelect
            name="claim_course"
            label="Course"
            size="xs"
            defaultValue={params.claim_course ?? ''}
            data={[
              { value: '', label: 'any' },
              ...courses.map(({ course, title }) => ({ value: course, label: title })),
            ]}
          />
        )}
        <Button type="submit">Check</Button>
        <span className={classes.soft}>
          {periods.map(({ title, from, to }) => (
            <Link
              key={title}
              scroll={false}
              href={linkTo(path, {
                ...kept,
                claim_from: dateOfDay(from),
                claim_to: dateOfDay(to),
                claim_course: params.claim_course,
              })}
            >
              {title}
            </Link>
          ))}
        </span>
      </form>
      {fault && (
        <p role="alert" className={classes.fault}>
          {fault}
        </p>
      )}
      {claim && <Answer claim={claim} learner={learner} zone={zone} now={view.now} />}
    </section>
  );
}

function Answer({ claim, learner, zone, now }: { claim: Claim; learner: string; zone: string; now: number }) {
  const today = dayOf(now, zone);
  const log = (item: { course: string; item_id: string }) =>
    linkTo('/access-log', {
      learner,
      course: item.course,
      item: item.item_id,
      from: dateOfDay(claim.from),
      to: dateOfDay(claim.to + 1),
    });
  return (
    <div className={classes.verdict} data-settled={claim.verdict.settled}>
      <p>
        <strong>{claim.verdict.says}</strong>
      </p>
      <p className={classes.soft}>
        {sayDay(claim.from, today)} to {sayDay(claim.to, today)}, both included. Time is an estimate from clicks.
      </p>
      <div className={classes.columns}>
        <div>
          <h3>{sayCount(claim.visits.length, 'visit')}</h3>
          <ul className={classes.plain}>
            {claim.visits.map((visit) => (
              <li key={visit.start}>
                {sayInstant(visit.first, zone, now)} · about {sayLength(visit.ms)} · {sayCount(visit.events, 'event')} ·{' '}
                {visit.courses.join(', ')}
              </li>
            ))}
          </ul>
        </div>
        <div>
          <h3>{sayCount(claim.items.length, 'item')}</h3>
          <ul className={classes.plain}>
            {claim.items.map((item) => (
              <li key={`${item.course} ${item.item_id}`}>
                <Link href={log(item)}>
                  <bdi>{item.item}</bdi>
                </Link>{' '}
                · {item.course} · about {sayLength(item.ms)}
                {item.last !== null && ` · last ${sayInstant(item.last, zone, now)}`}
              </li>
            ))}
          </ul>
        </div>
        <div>
          <h3>{sayCount(claim.sessions.length, 'session')}</h3>
          <ul className={classes.plain}>
            {claim.sessions.map((session) => (
              <li key={session.session_id}>
                <Link href={`/sessions/${encodeURIComponent(session.session_id)}`}>
                  <bdi>{session.title}</bdi>
                </Link>{' '}
                · {session.says}
              </li>
            ))}
          </ul>
        </div>
        <div>
          <h3>{sayCount(claim.handIns.length, 'hand-in')}</h3>
          <ul className={classes.plain}>
            {claim.handIns.map((one, index) => (
              <li key={index}>
                <bdi>{one.item}</bdi> · {one.course} · {sayInstant(one.at, zone, now)}
              </li>
            ))}
            {claim.differing.map((one, index) => (
              <li key={`differs ${index}`}>
                <bdi>{one.item}</bdi> · {one.course} · {sayInstant(one.at, zone, now)} by the log alone: results do not
                have it
              </li>
            ))}
          </ul>
        </div>
      </div>
    </div>
  );
}
