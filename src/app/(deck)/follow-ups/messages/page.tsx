import { Button, Group, Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import type { MessageState } from '@/core/contact/person';
import { CHANNEL_WORDS } from '@/core/contact/recipient';
import { sayInstant } from '@/core/time/words';
import { outboxCounts, outboxPage } from '@/server/contact/reads';
import { linkTo } from '../../../_deck/list-link';
import { openDeck, type SearchParams } from '../../../_deck/page-context';
import deckClasses from '../../../_deck/deck.module.css';
import { FollowUpTabs } from '../../../_deck/sections';
import { TopBar } from '../../../_deck/top-bar';
import { Refresher } from '../../../_deck/refresher';
import { settle } from '../../write/actions';
import classes from './messages.module.css';

export const metadata: Metadata = { title: 'Messages' };

const STATES: Record<MessageState, string> = {
  queued: 'waiting',
  sending: 'being sent',
  sent: 'sent',
  unsure: 'unsure',
  failed: 'failed',
  bounced: 'undelivered',
};
const PAGE = 50;

export default async function MessagesPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const { runtime, params } = deck;
  const { clock, zone, settings } = runtime;
  const state = Object.hasOwn(STATES, params.state ?? '') ? (params.state as MessageState) : null;
  const page = Math.max(1, Number(params.page) || 1);
  const [counts, { rows, total }] = await Promise.all([
    outboxCounts(runtime, deck.view),
    outboxPage(runtime, deck.view, state, PAGE, (page - 1) * PAGE),
  ]);
  const link = (changes: Record<string, string | null>) =>
    linkTo('/follow-ups/messages', { in: deck.lensKey, state, ...changes });
  const here = link({ page: page > 1 ? String(page) : null });
  const moving = rows.some(
    (row) => row.state === 'sending' || (row.state === 'queued' && row.not_before <= clock.now()),
  );
  return (
    <>
      <TopBar deck={deck} present />
      <Refresher every={moving ? 3000 : null} />
      <div className={deckClasses.page}>
        <Group justify="space-between" mb="sm">
          <h1>Messages</h1>
          <span className={classes.soft}>
            {Math.min(PAGE, rows.length)} of {total}
          </span>
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
          {(Object.keys(STATES) as MessageState[]).map((one) => (
            <Link
              key={one}
              href={link({ state: one === state ? null : one, page: null })}
              aria-current={one === state ? 'true' : undefined}
            >
              {counts[one] ?? 0} {STATES[one]}
            </Link>
          ))}
        </nav>
        {rows.length === 0 ? (
          <p>
            {state
              ? `No message is ${STATES[state]}.`
              : 'Nothing has been written yet. Choose somebody on the Watch and press Write.'}
          </p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Messages">
            <Table stickyHeader>
              <TableThead>
                <TableTr>
                  <TableTh>To</TableTh>
                  <TableTh>Subject</TableTh>
                  <TableTh>State</TableTh>
                  <TableTh>Written</TableTh>
                </TableTr>
              </TableThead>
              <TableTbody>
                {rows.map((row) => (
                  <TableTr key={row.id}>
                    <TableTd>
                      <Link href={`/learners/${encodeURIComponent(row.learner_id)}`}>
                        <bdi>{row.name}</bdi>
                      </Link>
                      <div className={classes.soft}>{row.learner_id}</div>
                    </TableTd>
                    <TableTd>
                      <bdi>{row.subject}</bdi>
                      <div className={classes.soft}>{CHANNEL_WORDS[row.channel]}</div>
                    </TableTd>
                    <TableTd>
                      <strong data-state={row.state} className={classes.state}>
                        {STATES[row.state]}
                      </strong>
                      {row.sent_at !== null && ` ${sayInstant(row.sent_at, zone, clock.now())}`}
                      {row.state === 'queued' && row.not_before > clock.now() && (
                        <div className={classes.soft}>
                          held until {sayInstant(row.not_before, zone, clock.now())}: quiet hours
                        </div>
                      )}
                      {row.error && <div className={classes.soft}>{row.error}</div>}
                      {(row.state === 'unsure' || row.state === 'failed' || row.state === 'bounced') && (
                        <form action={settle}>
                          <input type="hidden" name="id" value={row.id} />
                          <input type="hidden" name="back" value={here} />
                          <Group gap={6} mt={4}>
                            <Button type="submit" name="as" value="again" variant="default" size="compact-xs">
                              Send again
                            </Button>
                            {row.state === 'unsure' && (
                              <Button type="submit" name="as" value="sent" variant="default" size="compact-xs">
                                It arrived
                              </Button>
                            )}
                          </Group>
                        </form>
                      )}
                    </TableTd>
                    <TableTd>
                      {sayInstant(row.created_at, zone, clock.now())}
                      <div className={classes.soft}>{row.by}</div>
                    </TableTd>
                  </TableTr>
                ))}
              </TableTbody>
            </Table>
          </div>
        )}
        <nav className={classes.pages} aria-label="Pages">
          {page > 1 && <Link href={link({ page: String(page - 1) })}>Newer</Link>}
          {page * PAGE < total && <Link href={link({ page: String(page + 1) })}>Older</Link>}
        </nav>
      </div>
    </>
  );
}
