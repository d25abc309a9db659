/** One learner's story, page by page. */
import { splitAnswer } from '@/core/contact/answer';
import { TIMELINE_KINDS, joinTimeline, type TimelineEntry, type TimelineKind } from '@/core/contact/timeline';
import { findAudit } from '@/data/audit';
import { contactsOf } from '@/data/contact/contacts';
import { findFollowUps } from '@/data/contact/follow-ups';
import { findNotes } from '@/data/contact/notes';
import { repliesPage } from '@/data/contact/replies';
import { postsPage } from '@/data/posts/posts';
import { endOfView, type DriftView } from '@/data/view';
import { visitsOfLearners } from '@/data/access/visits';
import { flaresOfLearner, sayFlare } from '../contact/flares';
import { showContact } from './people';
import { startOfDay } from '@/core/time/zone';
import type { Runtime } from '../runtime';
import { newsOfLearner } from '../good-news/good-news-list';
import { recordedSessions } from '../sessions/records';

const TIMELINE_PAGE = 40;

export interface TimelineRequest {
  kinds: readonly TimelineKind[];
  /** Go on from this instant, included; null for the newest. */
  before: number | null;
}

/** Reads the kinds of a link such as `kinds=visit,note`; all of them when it names none. */
export function readKinds(text: string | undefined): TimelineKind[] {
  const wanted = (text ?? '').split(',');
  const kinds = TIMELINE_KINDS.filter((kind) => wanted.includes(kind));
  return kinds.length > 0 ? kinds : [...TIMELINE_KINDS];
}

/** Entries of a learner in view, newest first, and from where to go on. */
export async function timelineOf(
  runtime: Runtime,
  view: DriftView,
  learnerId: number,
  { kinds, before }: TimelineRequest,
): Promise<{ entries: TimelineEntry[]; older: number | null }> {
  const { db, zone } = runtime;
  const { viewer } = view;
  // Words about a learner are about all of them, whichever course one looks at.
  const whole = { viewer, segment: {} };
  const until = Math.min(endOfView(view), before ?? Infinity);
  // One more than shown, so that the end is known.
  const limit = TIMELINE_PAGE + 1;
  const readers: Record<TimelineKind, () => Promise<TimelineEntry[]>> = {
    visit: async () =>
      (await visitsOfLearners(db, viewer, view.segment, [learnerId], { to: until + 1, each: limit })).map(
        ({ start, first, last, ms, events, courses }) => ({
          kind: 'visit',
          at: start,
          start,
          first,
          last,
          ms,
          events,
          courses,
        }),
      ),
    session: async () => {
      const span = { from: 0, to: until + 1, now: view.now, courseId: view.segment.courseId };
      const recorded = (await recordedSessions({ db, zone }, viewer, [learnerId], span)).get(learnerId) ?? [];
      return recorded
        .filter((one) => one.starts_at <= view.now)
        .reverse()
        .slice(0, limit)
        .map((one) => ({
          kind: 'session',
          at: one.starts_at,
          sessionId: one.session_id,
          title: one.title,
          course: one.course,
          says: one.says,
          remark: one.remark,
        }));
    },
    post: async () =>
      (await postsPage(db, view, { learnerId, staff: false, to: until + 1 }, { limit }, false)).rows.map((row) => ({
        kind: 'post',
        at: row.at,
        id: row.id,
        course: row.course,
        item: row.item,
        text: row.text,
        words: row.words,
        answered: row.answered_name,
      })),
    good_news: async () =>
      (await newsOfLearner(runtime, view, learnerId))
        // A day's news is told at its end, after what it is made of.
        .map((one) => ({ ...one, at: startOfDay(one.on + 1, zone) - 1 }))
        .filter(({ at }) => at <= until)
        .slice(0, limit)
        .map(({ at, what, course, says }) => ({ kind: 'good_news', at, what, course, says })),
    flare: async () =>
      (await flaresOfLearner(runtime, viewer, learnerId, { until, limit })).map((row) => ({
        kind: 'flare',
        at: row.at,
        id: row.id,
        by: row.by,
        reason: row.reason,
        says: sayFlare(row),
        outcome: row.outcome,
      })),
    contact: async () =>
      (await contactsOf(db, viewer, [learnerId], { each: limit, until })).map((row) => ({
        kind: 'contact',
        at: row.at,
        contact: showContact(row, view, zone),
      })),
    answer: async () =>
      (await repliesPage(db, whole, { learnerId, until, limit, offset: 0 })).rows.map((row) => ({
        kind: 'answer',
        at: row.received_at,
        id: row.id,
        reply: row.kind,
        subject: row.subject,
        ...splitAnswer(row.body),
        messageId: row.message_id,
      })),
    note: async () =>
      (await findNotes(db, whole, { learnerId, until, limit })).rows.map((row) => ({
        kind: 'note',
        at: row.at,
        id: row.id,
        body: row.body,
        by: row.by,
        mine: row.by_id === viewer.staffId,
        own: row.audience === 'self',
        labels: row.labels,
      })),
    follow_up: async () =>
      (await findFollowUps(db, whole, { learnerId, state: 'any', until, limit })).map((row) => ({
        kind: 'follow_up',
        at: row.created_at,
        id: row.id,
        owner: row.owner,
        dueDay: row.due_day,
        reason: row.reason,
        snapshot: row.snapshot,
        closedAt: row.closed_at,
        outcome: row.outcome,
      })),
    change: async () =>
      (await findAudit(db, viewer, { learnerId, until, limit })).rows.map((row) => ({
        kind: 'change',
        at: row.at,
        id: row.id,
        by: row.by,
        what: row.what,
        subject: row.subject,
        changes: row.changes,
      })),
  };
  const lists = await Promise.all(kinds.map((kind) => readers[kind]()));
  return joinTimeline(lists, TIMELINE_PAGE);
}
