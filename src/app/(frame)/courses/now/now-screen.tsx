'use client';

import { Table } from '@mantine/core';
import Link from 'next/link';
import { isLate } from '@/core/feed/rhythm';
import { isSuspect, itemsNow, whoIsIn, type LiveEvent } from '@/core/access/now';
import { sayCount, sayInstant, sayTime } from '@/core/time/words';
import { HOUR, MINUTE } from '@/core/time/zone';
import type { Class } from '@/data/people/enrolments';
import type { SourceRhythm } from '@/server/feed/feed';
import { linkTo } from '../../../_list/list-link';
import { ClassList } from './class-list';
import { useLive, type LiveState } from './use-live';
import classes from './now.module.css';

interface Props {
  first: LiveEvent[];
  last: string;
  cut: boolean;
  sources: SourceRhythm[];
  inClass: Class | null;
  /** From when the class list looks. */
  since: number;
  sinceText: string;
  /** The session that is on, whose class list it is. */
  session: { id: string | null; title: string; version: string | null } | null;
  part: string | null;
  now: number;
  zone: string;
}

const STATES: Record<LiveState, string> = {
  opening: 'Connecting …',
  live: 'Arriving by itself',
  paused: 'Paused while this tab is hidden',
  lost: 'The connection was lost. Trying again; what came meanwhile will be caught up',
};
const LAST_EVENTS = 12;
const ITEMS = 8;
/** People shown as being in; a full college has more than a screen can hold. */
const PRESENT = 100;

/** Who is in, on what, since when; the last events; and where people stop. */
export function NowScreen(props: Props) {
  const { first, last, cut, sources, inClass, since, sinceText, session, part, now: opened, zone } = props;
  const { events, arrived, now, state } = useLive({
    events: first,
    last,
    part,
    now: opened,
    since,
    session: session?.id ?? null,
    version: session?.version ?? null,
  });
  const present = whoIsIn(events, now);
  const items = itemsNow(events, now);
  // A source's last event: as the page was opened with it, or one that has come since.
  const lastOf = (source: SourceRhythm) =>
    Math.max(source.lastEvent, events.find((event) => event.source === source.id)?.at ?? 0);
  const late = sources.filter((source) => isLate(source.usual, lastOf(source), now));
  const page = (learnerId: string) => `/learners/${encodeURIComponent(learnerId)}`;
  const log = (item: { course: string; item_id: string }) =>
    linkTo('/access-log', {
      in: part,
      course: item.course,
      item: item.item_id,
      from: new Date(now - HOUR).toISOString(),
    });
  const ago = (at: number) => {
    const minutes = Math.max(0, Math.floor((now - at) / MINUTE));
    return minutes === 0 ? 'now' : `${minutes} min ago`;
  };
  return (
    <div className={classes.screen}>
      <div className={classes.head}>
        <h1>Right now</h1>
        <span className={classes.state} data-state={state} role="status">
          {STATES[state]}
        </span>
        <span className={classes.soft}>
          {sayCount(present.length, 'learner')} in, {sayCount(events.length, 'event')} since {sayTime(now - HOUR, zone)}
          {cut && ' or a little later: the hour holds more than this screen'}
        </span>
      </div>
      {late.map((source) => (
        <p key={source.id} role="alert" className={classes.late}>
          The feed of {source.name} is late: nothing since {sayInstant(lastOf(source), zone, now)}, usually about{' '}
          {sayCount(Math.round(source.usual!), 'event')} in this hour. Somebody may be at work and not be seen here.
        </p>
      ))}
      {sources.length === 0 && (
        <p>No source has sent an event for these courses yet. A lead connects one, or brings in a log, under Set-up.</p>
      )}
      <div className={classes.columns} data-class={inClass !== null || undefined}>
        <section aria-label="Who is in" data-part="who">
          <h2>Who is in</h2>
          {present.length === 0 ? (
            <p>Nobody has done anything in the last half hour.</p>
          ) : (
            <Table verticalSpacing={3} horizontalSpacing={6}>
              <Table.Tbody>
                {present.slice(0, PRESENT).map(({ who, last: event, since: from, events: count }) => (
                  <Table.Tr key={who}>
                    <Table.Td>
                      <Link href={page(event.learner_id)}>
                        <bdi>{event.name}</bdi>
                      </Link>
                      <div className={classes.soft}>
                        since {sayTime(from, zone)} · {sayCount(count, 'event')}
                      </div>
                    </Table.Td>
                    <Table.Td>
                      <bdi>{event.item ?? event.course}</bdi>
                      <div className={classes.soft}>
                        {event.course} · {event.action.replaceAll('_', ' ')} {ago(event.at)}
                      </div>
                    </Table.Td>
                  </Table.Tr>
                ))}
              </Table.Tbody>
            </Table>
          )}
          {present.length > PRESENT && <p>And {sayCount(present.length - PRESENT, 'learner')} more.</p>}
        </section>
        {inClass?.members === null && (
          <section aria-label="Class list" data-part="class">
            <h2>Class list</h2>
            <p>{sayCount(inClass.size, 'learner')} are too many for a class list: choose a group above.</p>
          </section>
        )}
        {inClass?.members && (
          <ClassList
            members={inClass.members}
            arrived={arrived}
            sinceText={sinceText}
            session={session}
            part={part}
            zone={zone}
          />
        )}
        <section aria-label="Where people stop or come back" data-part="stops">
          <h2>Where people stop or come back</h2>
          {items.length === 0 ? (
            <p>No item has been opened this hour.</p>
          ) : (
            <Table verticalSpacing={3} horizontalSpacing={6}>
              <Table.Thead>
                <Table.Tr>
                  <Table.Th>Item</Table.Th>
                  <Table.Th ta="right">Learners</Table.Th>
                  <Table.Th ta="right">Stopped</Table.Th>
                  <Table.Th ta="right">Came back</Table.Th>
                </Table.Tr>
              </Table.Thead>
              <Table.Tbody>
                {items.slice(0, ITEMS).map((item) => (
                  <Table.Tr key={`${item.course}/${item.item_id}`}>
                    <Table.Td>
                      <Link href={log(item)}>
                        <bdi>{item.item}</bdi>
                      </Link>{' '}
                      <span className={classes.soft}>{item.course}</span>
                      {isSuspect(item) && (
                        <div className={classes.look}>most stop or come back here: have a look at it</div>
                      )}
                    </Table.Td>
                    <Table.Td ta="right">{item.learners}</Table.Td>
                    <Table.Td ta="right">{item.stopped}</Table.Td>
                    <Table.Td ta="right">{item.returned}</Table.Td>
                  </Table.Tr>
                ))}
              </Table.Tbody>
            </Table>
          )}
        </section>
        <section aria-label="The last events" data-part="events">
          <h2>
            The last events{' '}
            <Link className={classes.soft} href={linkTo('/access-log', { in: part, period: 'today' })}>
              all of today
            </Link>
          </h2>
          <ol className={classes.events}>
            {events.slice(0, LAST_EVENTS).map((event) => (
              <li key={event.id}>
                <time dateTime={new Date(event.at).toISOString()}>{sayTime(event.at, zone)}</time>{' '}
                <bdi>{event.name}</bdi> {event.action.replaceAll('_', ' ')} <bdi>{event.item ?? event.course}</bdi>
              </li>
            ))}
          </ol>
        </section>
      </div>
    </div>
  );
}
