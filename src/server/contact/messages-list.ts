/** The list of messages: what was written to whom, and what became of it. */
import { IsIn, IsOptional } from 'class-validator';
import { MESSAGE_STATES, MESSAGE_STATE_WORDS, type MessageState } from '@/core/contact/message-state';
import { CHANNEL_WORDS } from '@/core/contact/recipient';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { outboxPage, type OutboxRow } from '@/data/contact/messages';
import type { Viewer } from '@/data/scope';
import { isoOrNull } from '../request/values';
import { readInput, type Values } from '../request/input';
import { Filter, type At, type List } from '../request/list';
import { limitOf, placeOf, writeCursor } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

class MessagesQuery extends SegmentQuery {
  @Filter({ help: MESSAGE_STATES.join(', '), says: (state) => MESSAGE_STATE_WORDS[state as MessageState] })
  @IsOptional()
  @IsIn(MESSAGE_STATES, { message: `is not one of ${MESSAGE_STATES.join(', ')}` })
  state?: MessageState;
}

/** Newest first. @throws InvalidInput, NotFound */
export async function messages(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(MessagesQuery, values);
  const { course, group, organisation, caseload, state = null } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const page = { limit: limitOf(query), after: placeOf(query) };
  const { rows, total, goesOn } = await outboxPage(runtime.db, view, state, page);
  const last = rows.at(-1);
  const next = goesOn && last ? writeCursor([last.created_at, last.id]) : null;
  return { query, rows, total, next, now: view.now, zone: runtime.zone };
}

/** A message as the page shows it. */
export interface MessageLine {
  id: number;
  learnerId: string;
  name: string;
  subject: string;
  channel: string;
  state: MessageState;
  /** Whoever beside the learner it went to; empty for the learner. */
  receiver: string;
  /** When it went, or until when it is held. */
  says: string;
  /** Of a page that went as a link: how often it was opened, and until when it is good. */
  link: string | null;
  /** Can the link still be revoked? */
  isLinkGood: boolean;
  error: string | null;
  written: string;
  by: string;
}

/** @example sayLink(row, at) // 'Page as a link, good until 8 Dec: opened 2 times, last today 09:12' */
function sayLink(row: OutboxRow, { now, zone }: At): string | null {
  if (row.link_until === null) return null;
  const opened =
    row.link_opened_at === null
      ? 'not opened yet'
      : `opened ${sayCount(row.link_opened!, 'time')}, last ${sayInstant(row.link_opened_at, zone, now)}`;
  const good =
    row.link_revoked_at !== null
      ? `revoked ${sayInstant(row.link_revoked_at, zone, now)}`
      : `${row.link_until > now ? 'good' : 'it was good'} until ${sayDay(dayOf(row.link_until, zone))}`;
  return `Page as a link, ${good}: ${opened}`;
}

function messageLine(row: OutboxRow, { now, zone }: At): MessageLine {
  const isHeld = row.state === 'queued' && row.not_before > now;
  return {
    id: row.id,
    learnerId: row.learner_id,
    name: row.name,
    subject: row.subject,
    channel: CHANNEL_WORDS[row.channel],
    state: row.state,
    says: isHeld
      ? `held until ${sayInstant(row.not_before, zone, now)}: quiet hours`
      : row.sent_at === null
        ? ''
        : sayInstant(row.sent_at, zone, now),
    receiver: row.receiver_name,
    link: sayLink(row, { now, zone }),
    isLinkGood: row.link_until !== null && row.link_revoked_at === null && row.link_until > now,
    error: row.error,
    written: sayInstant(row.created_at, zone, now),
    by: row.by,
  };
}

export const MESSAGES = {
  name: 'messages',
  path: '/follow-ups/messages',
  query: MessagesQuery,
  columns: {
    to: {
      title: 'To',
      figures: { learner_id: (row) => row.learner_id, name: (row) => row.name, receiver: (row) => row.receiver_name },
    },
    subject: {
      title: 'Subject',
      figures: { subject: (row) => row.subject, channel: (row) => CHANNEL_WORDS[row.channel] },
    },
    state: {
      title: 'State',
      figures: {
        state: (row) => row.state,
        sent: (row) => isoOrNull(row.sent_at),
        error: (row) => row.error,
      },
    },
    written: { title: 'Written', figures: { written: (row) => isoOrNull(row.created_at), by: (row) => row.by } },
  },
  line: messageLine,
  read: messages,
} satisfies List<OutboxRow>;
