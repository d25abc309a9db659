import { Button, Group, Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import type { MessageState } from '@/core/followup/person';
import { sayInstant } from '@/core/time/words';
import { outboxCounts, outboxPage } from '@/data/messages';
import { openDeck, type SearchParams } from '../../../_deck/page-context';
import deckClasses from '../../../_deck/deck.module.css';
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
};
const PAGE = 50;

export default async function MessagesPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams);
  const { runtime, viewer, params } = deck;
  const { db, clock, zone, settings } = runtime;
  const state = Object.hasOwn(STATES, params.state ?? '') ? (params.state as MessageState) : null;
  const page = Math.max(1, Number(params.page) || 1);
  const [counts, { rows, total }] = await Promise.all([
    outboxCounts(db, viewer),
    outboxPage(db, viewer, state, PAGE, (page - 1) * PAGE),
  ]);
  const link = (changes: Record<string, string | null>) => {
    const query = new URLSearchParams();
    for (const [name, value] of Object.entries({ in: deck.lensKey, state, ...changes }))
      if (value) query.set(name, value);
    return `/follow-ups/messages?${query}`;
  };
  const here = link({ page: page > 1 ? String(page) : null });
  const moving = (counts.queued ?? 0) + (counts.sending ?? 0) > 0;
  return (
    <>
      <TopBar deck={deck} />
      <Refresher every={moving ? 3000 : null} />
      <div className={deckClasses.page}>
        <Group justify="space-between" mb="sm">
          <h1>Messages</h1>
          <span className={classes.soft}>
            {Math.min(PAGE, rows.length)} of {total}
          </span>
        </Group>
        {!settings.smtpUrl && (
          <p className={classes.note}>
            No mail server is set (LEESHORE_SMTP_URL), so messages wait here until there is one. Nothing is lost.
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
            <Table stickyHeader fz={13}>
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
                    </TableTd>
                    <TableTd>
                      <bdi>{row.subject}</bdi>
                    </TableTd>
                    <TableTd>
                      <strong data-state={row.state} className={classes.state}>
                        {STATES[row.state]}
                      </strong>
                      {row.sent_at !== null && ` ${sayInstant(row.sent_at, zone, clock.now())}`}
                      {row.error && <div className={classes.soft}>{row.error}</div>}
                      {(row.state === 'unsure' || row.state === 'failed') && (
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
