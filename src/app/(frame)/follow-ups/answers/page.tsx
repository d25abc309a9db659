import type { Metadata } from 'next';
import Link from 'next/link';
import { splitAnswer } from '@/core/contact/answer';
import { sayCount, sayInstant } from '@/core/time/words';
import type { ReplyKind, ReplyRow } from '@/data/contact/replies';
import { countUnread, repliesPage, unmatchedReplies } from '@/server/contact/reads';
import { linkTo } from '../../../_list/list-link';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../follow-ups.module.css';
import { Assign } from './assign';
import { ReadAnswer } from './read-answer';

export const metadata: Metadata = { title: 'Answers' };

const PAGE = 50;
const REPLY_WORDS: Record<ReplyKind, string> = {
  answer: 'answered',
  automatic: 'automatic answer',
  bounce: 'could not be delivered',
};

export default async function AnswersPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, view, params } = frame;
  const { clock, zone } = runtime;
  const now = clock.now();
  const page = Math.max(1, Math.floor(Number(params.page)) || 1);
  const [unread, unmatched, { rows, total }] = await Promise.all([
    countUnread(runtime, viewer),
    unmatchedReplies(runtime, viewer),
    repliesPage(runtime, view, { limit: PAGE, offset: (page - 1) * PAGE }),
  ]);
  const link = (to: number) => linkTo('/follow-ups/answers', { in: frame.segmentKey, page: String(to) });
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Answers</h1>
          <span className={classes.soft}>
            {sayCount(total, 'answer')}
            {unread > 0 && `, ${unread} unread`}
          </span>
        </div>
        <FollowUpTabs />
        {unmatched.length > 0 && (
          <section aria-label="Answers that match nobody">
            <h2>{sayCount(unmatched.length, 'answer matches', 'answers match')} nobody</h2>
            <p className={classes.soft}>
              They came from an address that is no learner’s, to no message of ours. Say whose they are, or that they
              are nobody’s; until then nothing of them is lost.
            </p>
            {unmatched.map((row) => (
              <Answer key={row.id} row={row} now={now} zone={zone}>
                <Assign replyId={row.id} />
              </Answer>
            ))}
            <h2>All answers</h2>
          </section>
        )}
        {rows.length === 0 ? (
          <p>
            Nobody has answered yet. Mail that comes in through the inbound address stands here and in the learner’s
            record, beside the message it answers.
          </p>
        ) : (
          rows.map((row) => (
            <Answer key={row.id} row={row} now={now} zone={zone}>
              {row.kind === 'answer' && (
                <ReadAnswer replyId={row.id} learner={row.learner} isRead={row.read_at !== null} />
              )}
            </Answer>
          ))
        )}
        <nav className={classes.states} aria-label="Pages">
          {page > 1 && <Link href={link(page - 1)}>Newer</Link>}
          {page * PAGE < total && <Link href={link(page + 1)}>Older</Link>}
        </nav>
      </div>
    </>
  );
}

interface AnswerProps {
  row: ReplyRow;
  now: number;
  zone: string;
  children?: React.ReactNode;
}

function Answer({ row, now, zone, children }: AnswerProps) {
  const { own, quoted } = splitAnswer(row.body);
  return (
    <article className={classes.answer} data-unread={(row.kind === 'answer' && row.read_at === null) || undefined}>
      <div>
        <strong>
          {row.learner_id ? (
            <Link href={`/learners/${encodeURIComponent(row.learner_id)}/conversation`}>
              <bdi>{row.name}</bdi>
            </Link>
          ) : (
            <bdi>{row.sender}</bdi>
          )}
        </strong>{' '}
        <span className={classes.soft}>
          {REPLY_WORDS[row.kind]} · {sayInstant(row.received_at, zone, now)} · <bdi>{row.subject}</bdi>
        </span>
      </div>
      <div className={classes.text} dir="auto">
        {own || '(no text)'}
      </div>
      {quoted && (
        <details>
          <summary className={classes.soft}>what it quotes</summary>
          <div className={classes.text} dir="auto">
            {quoted}
          </div>
        </details>
      )}
      {children}
    </article>
  );
}
