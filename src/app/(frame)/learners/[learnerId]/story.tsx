import Link from 'next/link';
import { OUTCOMES } from '@/core/contact/follow-up';
import { TIMELINE_KINDS, TIMELINE_WORDS, type TimelineEntry, type TimelineKind } from '@/core/contact/timeline';
import { sayCount, sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { EventRow } from '@/data/access/visits';
import { visitEvents } from '@/server/people/learner-page';
import { readKinds, timelineOf } from '@/server/people/timeline';
import { linkTo } from '../../../_list/list-link';
import type { FrameContext } from '../../../_frame/page-context';
import { RemoveNote } from '../../follow-ups/notes/remove-note';
import classes from './learner.module.css';
import { VisitEvents } from './visit-events';

interface Props {
  frame: FrameContext;
  learnerId: number;
  path: string;
  kept: Record<string, string | null>;
}

/** One readable story: what they did, what went well, and what was said to them and of them, newest first. */
export async function Story({ frame, learnerId, path, kept }: Props) {
  const { runtime, view, params } = frame;
  const { zone } = runtime;
  const kinds = readKinds(params.kinds);
  const before = /^\d{1,15}$/.test(params.before ?? '') ? Number(params.before) : null;
  const { entries, older } = await timelineOf(runtime, view, learnerId, { kinds, before });
  const all = kinds.length === TIMELINE_KINDS.length;
  const chosen = all ? null : kinds.join(',');
  const link = (changes: Record<string, string | null>) =>
    linkTo(path, { ...kept, kinds: chosen, before: before === null ? null : String(before), ...changes });
  const toggled = (kind: TimelineKind) => {
    if (all) return kind;
    const next = kinds.includes(kind) ? kinds.filter((one) => one !== kind) : [...kinds, kind];
    return next.length === 0 ? null : next.join(',');
  };
  const open = entries.find((entry) => entry.kind === 'visit' && String(entry.start) === params.visit);
  const events = open?.kind === 'visit' ? await visitEvents(runtime, view, learnerId, open) : [];
  return (
    <section className={classes.section} id="story">
      <h2>Story</h2>
      <nav className={classes.kinds} aria-label="Kinds">
        {TIMELINE_KINDS.map((kind) => (
          <Link
            key={kind}
            scroll={false}
            href={link({ kinds: toggled(kind), before: null })}
            aria-current={!all && kinds.includes(kind) ? 'true' : undefined}
          >
            {TIMELINE_WORDS[kind]}
          </Link>
        ))}
        {!all && (
          <Link scroll={false} href={link({ kinds: null, before: null })}>
            all
          </Link>
        )}
      </nav>
      {entries.length === 0 && (
        <p>
          {all && before === null
            ? 'Nothing has happened yet: no event, no contact, no note.'
            : 'Nothing of this kind.'}
        </p>
      )}
      <ol className={classes.story}>
        {entries.map((entry, index) => (
          <li key={`${entry.kind} ${'id' in entry ? entry.id : entry.at} ${index}`} data-kind={entry.kind}>
            <span className={classes.when}>
              {/* Good news is of a day. */}
              {entry.kind === 'good_news'
                ? sayDay(dayOf(entry.at, zone), dayOf(view.now, zone))
                : sayInstant(entry.at, zone, view.now)}
            </span>
            <div>
              <Entry
                entry={entry}
                zone={zone}
                now={view.now}
                open={entry === open}
                events={entry === open ? events : []}
                visitLink={(start) => link({ visit: start })}
              />
            </div>
          </li>
        ))}
      </ol>
      <nav className={classes.kinds} aria-label="Pages">
        {before !== null && <Link href={link({ before: null })}>Newest</Link>}
        {older !== null && <Link href={link({ before: String(older) })}>Older</Link>}
      </nav>
    </section>
  );
}

interface EntryProps {
  entry: TimelineEntry;
  zone: string;
  now: number;
  open: boolean;
  events: EventRow[];
  visitLink: (start: string | null) => string;
}

function Entry({ entry, zone, now, open, events, visitLink }: EntryProps) {
  switch (entry.kind) {
    case 'visit':
      return (
        <>
          <Link
            scroll={false}
            href={visitLink(open ? null : String(entry.start))}
            aria-expanded={open}
            className={classes.visit}
          >
            Visit of about {sayLength(entry.ms)}, {sayCount(entry.events, 'event')}
          </Link>{' '}
          <span className={classes.soft}>{entry.courses.join(', ')}</span>
          {open && <VisitEvents events={events} zone={zone} total={entry.events} />}
        </>
      );
    case 'session':
      return (
        <>
          <Link href={`/sessions/${encodeURIComponent(entry.sessionId)}`} className={classes.visit}>
            <bdi>{entry.title}</bdi>
          </Link>{' '}
          {entry.says.replace(/^session on [^:]*: /, '')}{' '}
          <span className={classes.soft}>{[entry.course, entry.remark].filter(Boolean).join(' · ')}</span>
        </>
      );
    case 'post':
      return (
        <Unfolding text={entry.text}>
          <strong>{entry.answered === null ? 'Wrote' : 'Answered'}</strong>{' '}
          {entry.answered !== null && (
            <>
              <bdi>{entry.answered}</bdi>{' '}
            </>
          )}
          in <bdi>{entry.item ?? 'the course’s discussions'}</bdi>{' '}
          <span className={classes.soft}>
            {sayCount(entry.words, 'word')} · {entry.course}
          </span>
        </Unfolding>
      );
    case 'good_news':
      return (
        <>
          <strong>{entry.what}</strong> {entry.says} <span className={classes.soft}>{entry.course}</span>
        </>
      );
    case 'flare':
      return (
        <>
          <strong>Flare by {entry.by ?? 'a program'}</strong> <span className={classes.soft}>{entry.says}</span>
          <div className={classes.text} dir="auto">
            {entry.reason}
          </div>
          {entry.outcome !== null && (
            <div className={classes.text} dir="auto">
              Ended: {entry.outcome}
            </div>
          )}
        </>
      );
    case 'contact': {
      const { contact } = entry;
      return (
        <Unfolding text={contact.body}>
          <strong>{contact.says}</strong> <bdi>{contact.subject}</bdi>
          {contact.cameBack !== null && (
            <span className={classes.soft}> · back on {sayInstant(contact.cameBack, zone, now)}</span>
          )}
        </Unfolding>
      );
    }
    case 'answer':
      return (
        <Unfolding text={entry.own || entry.quoted}>
          <strong>
            {{ answer: 'Answered', automatic: 'Automatic answer', bounce: 'Could not be delivered' }[entry.reply]}
          </strong>{' '}
          <bdi>{entry.subject}</bdi>
        </Unfolding>
      );
    case 'note':
      return (
        <>
          <strong>Note by {entry.mine ? 'you' : entry.by}</strong>{' '}
          <span className={classes.soft}>
            {[entry.own ? 'for yourself' : '', ...entry.labels].filter(Boolean).join(' · ')}
          </span>
          {entry.mine && <RemoveNote id={entry.id} />}
          <div className={classes.text} dir="auto">
            {entry.body}
          </div>
        </>
      );
    case 'follow_up':
      return (
        <>
          <strong>Follow-up for {sayDay(entry.dueDay, dayOf(now, zone))}</strong> <bdi>{entry.reason}</bdi>
          <div className={classes.soft}>
            {entry.owner} · then {entry.snapshot.band}
            {entry.snapshot.drift !== null && `, drift ${Math.round(entry.snapshot.drift)}`}
            {entry.closedAt !== null && entry.closedAt <= now
              ? ` · ${entry.outcome ? OUTCOMES[entry.outcome].says : 'closed'} ${sayInstant(entry.closedAt, zone, now)}`
              : ' · open'}
          </div>
        </>
      );
    case 'change':
      return (
        <>
          <strong>
            {entry.by ?? 'Lee Shore'} {entry.what}
          </strong>{' '}
          <bdi>{entry.subject}</bdi>
          {Object.entries(entry.changes).map(([name, [from, to]]) => (
            <div key={name} className={classes.soft}>
              {name.replaceAll('_', ' ')}: <bdi>{from ?? 'none'}</bdi> → <bdi>{to ?? 'none'}</bdi>
            </div>
          ))}
        </>
      );
  }
}

/** A line that opens to its text, where there is any. */
function Unfolding({ text, children }: { text: string; children: React.ReactNode }) {
  if (!text) return <div>{children}</div>;
  return (
    <details>
      <summary>{children}</summary>
      <div className={classes.text} dir="auto">
        {text}
      </div>
    </details>
  );
}
