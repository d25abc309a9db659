import { noteLook } from '@/server/privacy/looks';
import type { Metadata } from 'next';
import Link from 'next/link';
import { dayOf } from '@/core/time/zone';
import { sayInstant } from '@/core/time/words';
import { CHANNEL_WORDS } from '@/core/contact/recipient';
import { learnerPage } from '@/server/people/learner-page';
import { timelineOf } from '@/server/people/timeline';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { LearnerActions } from '../learner-actions';
import classes from '../learner.module.css';

export const metadata: Metadata = { title: 'Conversation' };

interface Props {
  params: Promise<{ learnerId: string }>;
  searchParams: SearchParams;
}

/** What was said to a learner and what they answered, oldest first, as one reads a conversation. */
export default async function ConversationPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, view } = frame;
  const { clock, zone } = runtime;
  const learnerId = decodeURIComponent((await params).learnerId);
  const person = await orNotFound(learnerPage(runtime, view, learnerId));
  noteLook(runtime, view.viewer, { learner: person.id, what: 'page', subject: 'conversation' });
  const before = /^\d{1,15}$/.test(frame.params.before ?? '') ? Number(frame.params.before) : null;
  const { entries, older } = await timelineOf(runtime, view, person.id, { kinds: ['contact', 'answer'], before });
  const path = `/learners/${encodeURIComponent(person.learnerId)}`;
  const kept = { from: frame.params.from ?? null, as_of: frame.asOf };
  const here = linkTo(`${path}/conversation`, kept);
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <p>
          <Link href={linkTo(path, kept)}>Back to {person.name}</Link>
        </p>
        <div className={classes.head}>
          <h1>
            Conversation with <bdi>{person.name}</bdi>
          </h1>
          <LearnerActions
            person={{ id: person.id, learnerId: person.learnerId, name: person.name, phone: person.phone }}
            lastContact={person.contacts[0]?.says ?? null}
            today={dayOf(clock.now(), zone)}
            here={here}
          />
        </div>
        {older !== null && (
          <p>
            <Link href={linkTo(`${path}/conversation`, { ...kept, before: String(older) })}>Earlier</Link>
          </p>
        )}
        {entries.length === 0 && <p>Nobody has written to them, and they have not written either.</p>}
        <ol className={classes.conversation} aria-label="Conversation">
          {[...entries].reverse().map((entry) =>
            entry.kind === 'contact' ? (
              <li key={`${entry.contact.kind} ${entry.contact.id}`} data-side="ours">
                <div className={classes.soft}>
                  {entry.contact.kind === 'call' ? 'call' : CHANNEL_WORDS[entry.contact.kind]} ·{' '}
                  {sayInstant(entry.at, zone, view.now)} · {entry.contact.says}
                </div>
                {entry.contact.subject && (
                  <strong>
                    <bdi>{entry.contact.subject}</bdi>
                  </strong>
                )}
                <div className={classes.text} dir="auto">
                  {entry.contact.body}
                </div>
              </li>
            ) : entry.kind === 'answer' ? (
              <li key={`answer ${entry.id}`} data-side="theirs">
                <div className={classes.soft}>
                  {
                    { answer: person.name, automatic: 'Automatic answer', bounce: 'Could not be delivered' }[
                      entry.reply
                    ]
                  }{' '}
                  · {sayInstant(entry.at, zone, view.now)}
                </div>
                <div className={classes.text} dir="auto">
                  {entry.own || '(no text)'}
                </div>
              </li>
            ) : null,
          )}
        </ol>
      </div>
    </>
  );
}
