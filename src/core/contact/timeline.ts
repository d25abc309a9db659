/** One learner's story: visits, sessions, posts, good news, contacts, answers, notes, promises and changes in one order. */
import type { Outcome, Snapshot } from './follow-up';
import type { ContactShown } from './person';

export const TIMELINE_KINDS = [
  'visit',
  'session',
  'post',
  'good_news',
  'flare',
  'contact',
  'answer',
  'note',
  'follow_up',
  'change',
] as const;
export type TimelineKind = (typeof TIMELINE_KINDS)[number];

export const TIMELINE_WORDS: Record<TimelineKind, string> = {
  visit: 'Visits',
  session: 'Sessions',
  post: 'Posts',
  good_news: 'Good news',
  flare: 'Flares',
  contact: 'Contacts',
  answer: 'Answers',
  note: 'Notes',
  follow_up: 'Follow-ups',
  change: 'Changes',
};

export type TimelineEntry = { at: number } & (
  | { kind: 'visit'; start: number; first: number; last: number; ms: number; events: number; courses: string[] }
  | { kind: 'session'; sessionId: string; title: string; course: string; says: string; remark: string }
  | {
      kind: 'post';
      id: number;
      course: string;
      item: string | null;
      text: string;
      words: number;
      /** Whom it answers; null where it answers nobody who is known and seen. */
      answered: string | null;
    }
  /** What went well: `what` in words, and how. */
  | { kind: 'good_news'; what: string; course: string; says: string }
  | {
      kind: 'flare';
      id: number;
      by: string | null;
      reason: string;
      /** Who has seen it and who has not, in words. */
      says: string;
      outcome: string | null;
    }
  | { kind: 'contact'; contact: ContactShown }
  | {
      kind: 'answer';
      id: number;
      reply: 'answer' | 'automatic' | 'bounce';
      subject: string;
      own: string;
      quoted: string;
      messageId: number | null;
    }
  | { kind: 'note'; id: number; body: string; by: string; mine: boolean; own: boolean; labels: string[] }
  | {
      kind: 'follow_up';
      id: number;
      owner: string;
      dueDay: number;
      reason: string;
      snapshot: Snapshot;
      closedAt: number | null;
      outcome: Outcome | null;
    }
  | {
      kind: 'change';
      id: number;
      by: string | null;
      what: string;
      subject: string;
      changes: Record<string, [string | number | null, string | number | null]>;
    }
);

/**
 * Joins lists that each are newest first into one, cut after `limit` entries but never between two
 * of one instant. `older` is the instant to go on from (included), or null at the end.
 */
export function joinTimeline(
  lists: readonly (readonly TimelineEntry[])[],
  limit: number,
): { entries: TimelineEntry[]; older: number | null } {
  const rank = (entry: TimelineEntry) => TIMELINE_KINDS.indexOf(entry.kind);
  // Of one instant, what follows from something stands as the newer: an answer after its message.
  const all = lists.flat().sort((a, b) => b.at - a.at || rank(b) - rank(a));
  if (all.length <= limit) return { entries: all, older: null };
  const last = all[limit - 1].at;
  const entries = all.filter((entry, index) => index < limit || entry.at === last);
  return { entries, older: entries.length < all.length ? last - 1 : null };
}
