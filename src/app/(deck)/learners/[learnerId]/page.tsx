import { Group } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { bandWord } from '@/core/drift/bands';
import type { ContactShown, EnrolmentShown } from '@/core/followup/person';
import { sayCount, sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { VISITS_SHOWN, learnerPage, placeOnWatch, visitEvents } from '@/server/learner-page';
import { readWatchFilter } from '@/server/watch';
import { lensNames, openView } from '@/server/view';
import { Contact } from '@/ui/contact';
import { Gauge } from '@/ui/gauge';
import { Reasons } from '@/ui/reasons';
import { Wake } from '@/ui/wake';
import { openDeck, orNotFound, type DeckContext, type SearchParams } from '../../../_deck/page-context';
import deckClasses from '../../../_deck/deck.module.css';
import { TopBar } from '../../../_deck/top-bar';
import { WriteButton } from '../../write/write-button';
import { NeighbourKeys } from './neighbour-keys';
import { VisitEvents } from './visit-events';
import classes from './learner.module.css';

export const metadata: Metadata = { title: 'Learner' };

interface Props {
  params: Promise<{ learnerId: string }>;
  searchParams: SearchParams;
}

/** The list one came from, as its address says: the Watch with its part and band. */
async function placeInList(deck: DeckContext, from: string, id: number) {
  const query = new URL(from, 'http://list').searchParams;
  const filter = readWatchFilter({ band: query.get('band') ?? undefined, drift: query.get('drift') ?? undefined });
  const view = await orNotFound(openView(deck.runtime, deck.viewer, lensNames(query.get('in') ?? undefined)));
  return placeOnWatch(deck.runtime, view, filter, id);
}

export default async function LearnerPage({ params, searchParams }: Props) {
  const deck = await openDeck(searchParams);
  const { runtime, view } = deck;
  const { clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const learnerId = decodeURIComponent((await params).learnerId);
  const person = await orNotFound(learnerPage(runtime, view, learnerId));
  const from = deck.params.from?.startsWith('/watch') ? deck.params.from : '/watch';
  const place = await placeInList(deck, from, person.id);
  const here = (id: string) => `/learners/${encodeURIComponent(id)}?from=${encodeURIComponent(from)}`;
  const openVisit = Number(deck.params.visit) || null;
  const events = openVisit === null ? [] : await visitEvents(runtime, view, person, openVisit);
  const links = {
    previous: place?.previous ? here(place.previous) : null,
    next: place?.next ? here(place.next) : null,
  };
  return (
    <>
      <TopBar deck={deck} />
      <div className={deckClasses.page}>
        <nav className={classes.trail} aria-label="List">
          <Link href={from}>Back to the Watch</Link>
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
          <NeighbourKeys
            previous={links.previous}
            next={links.next}
            learnerId={person.id}
            back={here(person.learnerId)}
          />
        </nav>
        <header className={classes.head}>
          <Gauge score={person.score} band={person.band} height={46} />
          <div>
            <h1>
              <bdi>{person.name}</bdi>
            </h1>
            <div className={classes.soft}>
              {[person.learnerId, person.organisation ?? 'on their own'].join(' · ')} · {bandWord(person.band)}
              {person.score !== null && `, drift ${Math.round(person.score)}`}
            </div>
          </div>
          <Contact email={person.email} phone={person.phone} />
          <Group gap={8}>
            <WriteButton learnerIds={[person.id]} back={here(person.learnerId)} />
          </Group>
        </header>

        <section className={classes.section}>
          <h2>The last 12 weeks</h2>
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Wake of 12 weeks">
            <Wake wake={person.wake} width={840} height={64} />
          </div>
          <p className={classes.soft}>
            A bar is a day’s minutes online, {sayDay(person.wake.firstDay, today)} to {sayDay(today)}; weekends on sand,
            a notch where an item fell due, hatching where the log is incomplete.
          </p>
        </section>

        <section className={classes.section}>
          <h2>Courses</h2>
          {person.enrolments.map((enrolment) => (
            <Enrolment key={enrolment.courseId} enrolment={enrolment} now={now} zone={zone} />
          ))}
        </section>

        <section className={classes.section}>
          <h2>Visits</h2>
          <p className={classes.soft}>
            Time online is an estimate: from each event to the next, up to 30 minutes apart, and one minute for the last
            of a visit. Being there is not the same as reading.
          </p>
          {person.visits.length === 0 && <p>No visit yet: no event in any log names them.</p>}
          <ul className={classes.visits}>
            {person.visits.map((visit) => {
              const open = visit.start === openVisit;
              return (
                <li key={visit.start}>
                  <Link
                    scroll={false}
                    href={open ? here(person.learnerId) : `${here(person.learnerId)}&visit=${visit.start}`}
                    aria-expanded={open}
                    className={classes.visit}
                  >
                    <strong>{sayInstant(visit.first, zone, now)}</strong>
                    <span>about {sayLength(visit.ms)}</span>
                    <span>{sayCount(visit.events, 'event')}</span>
                    <span>{visit.courses.join(', ')}</span>
                  </Link>
                  {open && <VisitEvents events={events} zone={zone} total={visit.events} />}
                </li>
              );
            })}
          </ul>
          {person.visits.length === VISITS_SHOWN && (
            <p className={classes.soft}>The newest {VISITS_SHOWN} visits are shown.</p>
          )}
        </section>

        <section className={classes.section}>
          <h2>Messages</h2>
          {person.contacts.length === 0 && <p>Nobody has written to them yet.</p>}
          {person.contacts.map((contact) => (
            <Message key={contact.id} contact={contact} now={now} zone={zone} />
          ))}
        </section>
      </div>
    </>
  );
}

function Enrolment({ enrolment, now, zone }: { enrolment: EnrolmentShown; now: number; zone: string }) {
  const today = dayOf(now, zone);
  const { lastAccess, daysQuiet, ms, status } = enrolment;
  const active = status === 'active';
  return (
    <div className={classes.enrolment}>
      <div>
        <h3>
          {enrolment.title}
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
        </dl>
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
          <Reasons enrolment={enrolment} />
        </div>
      )}
    </div>
  );
}

function Message({ contact, now, zone }: { contact: ContactShown; now: number; zone: string }) {
  return (
    <details className={classes.message}>
      <summary>
        <strong>
          <bdi>{contact.subject}</bdi>
        </strong>{' '}
        <span className={classes.soft}>
          {sayInstant(contact.at, zone, now)} · {contact.says}
          {contact.cameBack !== null && ` ${sayInstant(contact.cameBack, zone, now)}`}
        </span>
      </summary>
      <div className={classes.text} dir="auto">
        {contact.body}
      </div>
    </details>
  );
}
