import { Button, Group } from '@mantine/core';
import Link from 'next/link';
import { bandWord } from '@/core/drift/bands';
import type { Person } from '@/core/contact/person';
import { sayInstant, sayLength } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { Reasons } from '@/ui/reasons';
import { Contact, dialling } from '@/ui/contact';
import { linkTo } from '../_list/list-link';
import { ActionButtons } from './action-buttons';
import type { ActionName } from './learner-actions';
import classes from './panel.module.css';

interface Props {
  person: Person;
  /** "3 of 31". */
  place: string;
  now: number;
  zone: string;
  href: string;
  writing: boolean;
  onAct: (name: ActionName) => void;
}

/** Everything needed to act on one person, beside the list. */
export function PersonPanel({ person, place, now, zone, href, writing, onAct }: Props) {
  const { enrolments, visits, contacts, lastAccess, daysQuiet } = person;
  const change = enrolments.length === 1 ? enrolments[0].change : null;
  const moved = change === null || change === 0 ? '' : `, ${change > 0 ? 'up' : 'down'} ${Math.abs(change)} in a week`;
  return (
    <div className={classes.panel}>
      <div className={classes.head}>
        <Gauge score={person.score} band={person.band} size="panel" />
        <div>
          <h2 className={classes.title}>
            <Link href={href}>
              <bdi>{person.name}</bdi>
            </Link>
          </h2>
          <div className={classes.soft}>
            {[...enrolments.map((e) => [e.title, e.group].filter(Boolean).join(' · ')), person.organisation]
              .filter(Boolean)
              .join(' · ')}
          </div>
          <div className={classes.soft}>{person.learnerId}</div>
        </div>
        <span className={classes.soft}>{place}</span>
      </div>
      <Group gap={8} my={10}>
        {person.phone && (
          // It dials, and what came of it is asked for when one is back.
          <Button component="a" className={classes.dial} href={dialling(person.phone)} onClick={() => onAct('call')}>
            Call
          </Button>
        )}
        <ActionButtons inPanel busy={writing} onAct={onAct} />
        <Link href={href} className={classes.open}>
          Open page
        </Link>
        <Link href={linkTo('/access-log', { learner: person.learnerId })} className={classes.open}>
          Access log
        </Link>
      </Group>
      <section>
        <div className={classes.sectionHead}>
          <h2>Why on the list</h2>
          <span className={classes.soft}>
            {person.score === null
              ? 'no reading'
              : `${bandWord(person.band)}, drift ${Math.round(person.score)}${moved}`}
          </span>
        </div>
        {enrolments.map((enrolment) => (
          <div key={enrolment.courseId}>
            {enrolments.length > 1 && (
              <h3 className={classes.course}>
                {enrolment.title}
                {enrolment.score !== null && ` · drift ${Math.round(enrolment.score)}`}
              </h3>
            )}
            <Reasons enrolment={enrolment} learnerId={person.learnerId} />
          </div>
        ))}
        {enrolments.length > 1 && person.score !== null && (
          <p className={classes.soft}>Over several courses: 60 % of the highest and 40 % of the mean.</p>
        )}
      </section>
      <section>
        <h2 className={classes.sectionHead}>Work</h2>
        {enrolments.map((enrolment) => (
          <p key={enrolment.courseId}>
            <Link
              href={linkTo(
                `/learners/${encodeURIComponent(person.learnerId)}/courses/${encodeURIComponent(enrolment.course)}`,
                {},
              )}
            >
              {enrolments.length > 1 ? enrolment.course : 'Every item'}
            </Link>{' '}
            {sayWork(enrolment)}
          </p>
        ))}
      </section>
      <section>
        <h2 className={classes.sectionHead}>Contact</h2>
        <Contact email={person.email} phone={person.phone} />
      </section>
      <section>
        <h2 className={classes.sectionHead}>Last access</h2>
        <p>
          {lastAccess === null
            ? 'Never'
            : `${sayInstant(lastAccess, zone, now)} · ${daysQuiet === 0 ? 'today' : daysQuiet === 1 ? 'yesterday' : `${daysQuiet} days ago`}`}
        </p>
        {visits.length > 0 && (
          <>
            <h3 className={classes.course}>Recent visits</h3>
            <ul className={classes.visits}>
              {visits.map((visit) => (
                <li key={visit.start}>
                  <Link href={visitLog(person.learnerId, visit)}>{sayInstant(visit.first, zone, now)}</Link>
                  <span className={classes.soft}>
                    about {sayLength(visit.ms)} · {visit.courses.join(', ')}
                  </span>
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
      <section>
        <h2 className={classes.sectionHead}>Last contact</h2>
        {contacts.length === 0 ? (
          <p className={classes.soft}>Nobody has been in touch with them yet.</p>
        ) : (
          contacts.slice(0, 1).map((contact) => (
            <div key={contact.id}>
              <strong>{contact.says}</strong>
              <p className={classes.quote}>
                {sayInstant(contact.at, zone, now)}
                {(contact.subject || contact.body) && (
                  <>
                    {' · '}
                    <bdi>“{contact.subject || contact.body.slice(0, 120)}”</bdi>
                  </>
                )}
                {contact.cameBack !== null && ` · back on ${sayInstant(contact.cameBack, zone, now)}`}
              </p>
            </div>
          ))
        )}
      </section>
    </div>
  );
}

/** What of somebody's work matters first: what is overdue, how far they are, how well it went. */
function sayWork({ overdue, progress, platform, onGraded }: Person['enrolments'][number]): string {
  const parts = [
    overdue === null ? null : overdue === 0 ? 'nothing overdue' : `${overdue} overdue`,
    progress === null ? null : `progress ${Math.round(100 * progress)} %`,
    platform,
    onGraded === null ? null : `${Math.round(onGraded)} % on graded work`,
  ].filter(Boolean);
  return parts.length === 0 ? 'not known of this day' : parts.join(' · ');
}

/** The events of one visit. */
function visitLog(learner: string, { first, last }: { first: number; last: number }): string {
  const iso = (at: number) => new Date(at).toISOString();
  return linkTo('/access-log', { learner, from: iso(first), to: iso(last + 1), fold: 'no' });
}
