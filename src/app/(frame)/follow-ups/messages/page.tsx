import { Group } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { MESSAGE_STATES, MESSAGE_STATE_WORDS } from '@/core/contact/message-state';
import { MESSAGES, messages } from '@/server/contact/messages-list';
import { outboxCounts } from '@/server/contact/reads';
import { sayCount } from '@/core/time/words';
import { askedOf, listParams } from '@/server/request/list';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import { Refresher } from '../../../_frame/refresher';
import { MessageList } from './message-list';
import classes from './messages.module.css';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Messages' };

const FIRST = '50';

export default async function MessagesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, MESSAGES);
  const { runtime, viewer } = frame;
  const { clock, settings } = runtime;
  const params = listParams(MESSAGES, frame.params);
  const [counts, list] = await Promise.all([
    outboxCounts(runtime, frame.view),
    orNotFound(messages(runtime, viewer, { ...askedOf(MESSAGES, params), limit: FIRST })),
  ]);
  const state = list.query.state ?? null;
  const moving = list.rows.some(
    (row) => row.state === 'sending' || (row.state === 'queued' && row.not_before <= clock.now()),
  );
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={moving ? 3000 : null} />
      <div className={frameClasses.page}>
        <Group justify="space-between" mb="sm">
          <h1>Messages</h1>
          <span className={classes.soft}>{sayCount(list.total, 'message')}</span>
          <Outputs list="messages" params={params} />
        </Group>
        <FollowUpTabs />
        {!settings.smtpUrl && (
          <p className={classes.note}>
            No mail server is set (LEESHORE_SMTP_URL), so messages wait here until there is one. Nothing is lost.
          </p>
        )}
        {!settings.smsUrl && (
          <p className={classes.note}>
            No text-message gateway is set (LEESHORE_SMS_URL), so text messages wait here until there is one.
          </p>
        )}
        <nav className={classes.states} aria-label="States">
          {MESSAGE_STATES.map((one) => (
            <Link
              key={one}
              href={linkTo(MESSAGES.path, { ...params, state: one === state ? null : one })}
              aria-current={one === state ? 'true' : undefined}
            >
              {counts[one] ?? 0} {MESSAGE_STATE_WORDS[one]}
            </Link>
          ))}
        </nav>
        {list.rows.length === 0 ? (
          <p>
            {state
              ? `No message is ${MESSAGE_STATE_WORDS[state]}.`
              : 'Nothing has been written yet. Choose somebody on the Watch and press Write.'}
          </p>
        ) : (
          <MessageList
            // What a message has become is told by the first rows alone, so a change begins anew.
            key={list.rows.map(({ id, state: now }) => `${id} ${now}`).join()}
            lines={list.rows.map((row) => MESSAGES.line(row, list))}
            titles={Object.values(MESSAGES.columns).map(({ title }) => title)}
            next={list.next}
            params={params}
            here={linkTo(MESSAGES.path, params)}
          />
        )}
      </div>
    </>
  );
}
