/** The screen of what happens now, as it stands when it is opened. */
import { IsOptional, Matches } from 'class-validator';
import type { Values } from '../../request/input';
import { MOST_EVENTS, type LiveEvent } from '@/core/access/now';
import { HOUR, dayOf, fromWallClock, DAY } from '@/core/time/zone';
import { logPage } from '@/data/access/log/page';
import { courseOfGroup } from '@/data/courses/courses';
import { sessionTimes, type SessionTimes } from '@/data/sessions/session-times';
import { withRaw } from '@/data/db';
import { sessionVersion } from '@/data/sessions/session-version';
import { classList, type Class } from '@/data/people/enrolments';
import { lastEventId } from '@/data/access/live';
import type { View } from '@/data/view';
import { sourceRhythms, type SourceRhythm } from '@/server/feed/feed';
import { readInput } from '@/server/request/input';
import { liveCursors } from './cursor';
import type { Runtime } from '@/server/runtime';

class NowQuery {
  /** Since when the class list looks: HH:MM of today. */
  @IsOptional() @Matches(/^([01]\d|2[0-3]):[0-5]\d$/, { message: 'is not a time such as 09:30' }) since?: string;
}

export interface RightNow {
  events: LiveEvent[];
  /** The last event that is in the picture: the stream goes on from it. */
  last: string;
  /** Is the hour cut short, since it holds more than a screen can? */
  cut: boolean;
  sources: SourceRhythm[];
  /** Of a course or group that is looked at: who is in it. */
  inClass: Class | null;
  /** From when the class list looks. */
  since: number;
  /** A session that the outline has for this hour. */
  session: (SessionTimes & { version: string | null }) | null;
}

/** @throws InvalidInput */
export async function rightNow(runtime: Runtime, view: View, values: Values): Promise<RightNow> {
  const { db, clock, zone } = runtime;
  const { since: asked } = readInput(NowQuery, values);
  const now = clock.now();
  const { segment } = view;
  const [last, places] = await Promise.all([withRaw(db, lastEventId), liveCursors(db)]);
  const [rows, courseIds, sessions] = await Promise.all([
    logPage(db, view, { staff: 'no', from: now - HOUR }, { limit: MOST_EVENTS }),
    segment.courseId !== undefined
      ? [segment.courseId]
      : segment.groupId !== undefined
        ? courseOfGroup(db, segment.groupId).then((id) => [id])
        : undefined,
    sessionTimes(db, view, now - 4 * HOUR, now + HOUR / 4),
  ]);
  const running = sessions.filter(({ from, to }) => (to ?? from + 2 * HOUR) > now).at(-1) ?? null;
  const since = asked === undefined ? (running?.from ?? startOfHour(now)) : timeToday(asked, now, zone);
  // Somebody who asks for another time asks what the log has of it.
  const isOfSession = running !== null && running.id !== null && asked === undefined;
  const version = running?.id ? await withRaw(db, (raw) => sessionVersion(raw, running.id!)) : null;
  const oneClass = segment.courseId !== undefined || segment.groupId !== undefined;
  return {
    events: rows.map(({ id, at, source_id, learner_id, name, course, item_id, item, action }) => ({
      id: places.seal(id),
      at,
      source: source_id,
      who: `learner ${learner_id}`,
      learner_id,
      name,
      course,
      item_id,
      item,
      action,
    })),
    last: places.seal(last),
    cut: rows.length === MOST_EVENTS,
    sources: await sourceRhythms(runtime, courseIds),
    inClass: oneClass ? await classList(db, view, since, isOfSession ? running.id : null) : null,
    since,
    session: oneClass && running ? { ...running, version } : null,
  };
}

function startOfHour(now: number): number {
  return Math.floor(now / HOUR) * HOUR;
}

function timeToday(text: string, now: number, zone: string): number {
  const [hours, minutes] = text.split(':').map(Number);
  const at = fromWallClock(dayOf(now, zone) * DAY + (hours * 60 + minutes) * 60_000, zone);
  return Math.min(at, now);
}
