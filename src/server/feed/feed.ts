/** The feed: its sources' rhythm, gaps found in it, confirmed or named, and filled. */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { fillOf, findGaps, isFilled, isLate, usualAt } from '@/core/feed/rhythm';
import { mergeRanges, type DayRange } from '@/core/drift/counted-days';
import { sayDay } from '@/core/time/words';
import { HOUR, dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { withRaw, writing, rawTransaction } from '@/data/db';
import {
  addFeedGap,
  courseFeedGaps,
  dropFoundGap,
  fillGap,
  findGap,
  growGap,
  hoursOf,
  isStopped,
  noteFoundGap,
  openGaps,
  setGapState,
  sourcesOfCourses,
  sourcesWithEvents,
} from '@/data/feed/feed-gaps';
import type { Viewer } from '@/data/scope';
import { isLead } from '@/core/staff/rights';
import { OF_SOURCE, noteStale, noteStaleIn } from '@/data/drift/stale';
import { AsInstant, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import { requireOrder, type Period } from '../request/period';
import type { Runtime } from '../runtime';

type Parts = Pick<Runtime, 'db' | 'clock' | 'zone'>;

/** Days back that are searched for gaps, and the weeks before them that tell the rhythm. */
const LOOK_BACK = 28 * 24;
const RHYTHM = 7 * 7 * 24;

/**
 * Looks through every source's hours: notes new silences for a person to confirm, lets go of
 * those that were none, and clears gaps that a later file has filled: drift is then read anew.
 */
export async function lookForGaps({ db, clock, zone }: Parts): Promise<void> {
  const now = clock.now();
  const hour = Math.floor(now / HOUR);
  for (const { id } of await withRaw(db, sourcesWithEvents)) {
    await rawTransaction(db, (raw) => {
      const known = openGaps(raw, id);
      const oldest = Math.min(hour - LOOK_BACK, ...known.map((gap) => Math.floor(gap.from_at / HOUR)));
      const counts = hoursOf(raw, id, oldest - RHYTHM);
      if (counts.size === 0) return;
      const found = findGaps(counts, hour - LOOK_BACK, hour, zone).map((gap) => ({
        from_at: gap.from * HOUR,
        to_at: gap.to * HOUR,
        expected: gap.expected,
      }));
      for (const gap of known) {
        const hours = { from: Math.floor(gap.from_at / HOUR), to: Math.ceil(gap.to_at / HOUR) };
        const { came, expected } = fillOf(counts, hours, zone);
        if (gap.state === 'dismissed' || gap.by_itself === 1) continue;
        if (!isFilled({ came: came - gap.came, expected: expected - gap.came })) continue;
        if (gap.state === 'found') dropFoundGap(raw, gap.id);
        else {
          fillGap(raw, gap.id, now);
          noteStale(raw, OF_SOURCE, { sourceId: id, fromDay: dayOf(gap.from_at, zone) });
        }
      }
      for (const gap of found) {
        if (isStopped(raw, id, gap.to_at)) continue;
        const same = known.find((one) => one.from_at < gap.to_at && one.to_at > gap.from_at);
        if (!same) noteFoundGap(raw, id, gap, now);
        else if (same.state === 'found') growGap(raw, same.id, gap.to_at, gap.expected);
      }
    });
  }
}

export class GapInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(100, { message: 'is longer than 100 characters' }) source!: string;
  @IsNotEmpty({ message: 'is missing' }) @AsInstant() from!: number;
  @IsNotEmpty({ message: 'is missing' }) @AsInstant() to!: number;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) reason?: string;
}

/** Names a gap that the rhythm does not show. @throws InvalidInput; NotFound for anybody but a lead */
export async function nameGap(runtime: Parts, viewer: Viewer, values: Values): Promise<void> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const { source, from: start, to: end, reason = '' } = readInput(GapInput, values, zone);
  requireOrder(start, end);
  if (start > clock.now()) throw new InvalidInput([{ field: 'from', message: 'lies in the future' }]);
  const staff_id = viewer.staffId || null;
  const subject = `${source}: ${sayGapDays([[dayOf(start, zone), dayOf(end - 1, zone)]])}`;
  await writing(db, async (trx) => {
    const sourceId = await addFeedGap(trx, source, start, end, { reason, staff_id, changed_at: clock.now() });
    if (sourceId === null) {
      throw new InvalidInput([
        { field: 'source', message: `is not known: there is no source ${source} that has brought events` },
      ]);
    }
    await noteStaleIn(trx, OF_SOURCE, { sourceId, fromDay: dayOf(start, zone) });
    await addAudit(trx, { at: clock.now(), staff_id, what: 'named a gap in the feed', subject });
  });
}

/** Says of a gap whether it is one. @throws NotFound */
export async function settleGap(runtime: Parts, viewer: Viewer, id: number, is: boolean): Promise<void> {
  const { db, clock, zone } = runtime;
  await writing(db, async (trx) => {
    const gap = isLead(viewer) ? await findGap(trx, id) : null;
    if (!gap || gap.state === 'filled') throw new NotFound('No such gap');
    const staff_id = viewer.staffId || null;
    await setGapState(trx, id, is ? 'confirmed' : 'dismissed', { staff_id, changed_at: clock.now() });
    const from = dayOf(gap.from_at, zone);
    await noteStaleIn(trx, OF_SOURCE, { sourceId: gap.source_id, fromDay: from });
    const subject = `${gap.source}: ${sayGapDays([[from, dayOf(gap.to_at - 1, zone)]])}`;
    const what = is ? 'confirmed a gap in the feed' : 'said that a gap in the feed is none';
    await addAudit(trx, { at: clock.now(), staff_id, what, subject });
  });
}

export interface SourceRhythm {
  id: number;
  name: string;
  lastEvent: number;
  /** Events that usually come in this hour of the week; null where too little is known. */
  usual: number | null;
  /** Silent for longer than usual, now. */
  late: boolean;
}

/** The rhythm of every source, or of those that feed some courses. */
export async function sourceRhythms(
  { db, clock, zone }: Parts,
  courseIds?: readonly number[],
): Promise<SourceRhythm[]> {
  const now = clock.now();
  const hour = Math.floor(now / HOUR);
  const wanted = courseIds === undefined ? null : await sourcesOfCourses(db, courseIds);
  return withRaw(db, (raw) =>
    sourcesWithEvents(raw)
      .filter(({ id }) => wanted === null || wanted.includes(id))
      .map(({ id, name, last_event_at: lastEvent }) => {
        const counts = hoursOf(raw, id, hour - RHYTHM);
        const usual =
          counts.size > 0 ? (usualAt(counts, hour, Math.min(...counts.keys()), zone)?.events ?? null) : null;
        return { id, name, lastEvent, usual, late: isLate(usual, lastEvent, now) };
      }),
  );
}

/** The days of a period on which the log of some courses is incomplete. */
export async function incompleteDays(
  { db, zone }: Pick<Runtime, 'db' | 'zone'>,
  courseIds: readonly number[],
  { from = -Infinity, to = Infinity }: Period,
): Promise<DayRange[]> {
  const gaps = await courseFeedGaps(db, courseIds);
  return mergeRanges(
    gaps
      .filter((gap) => gap.from_at < to && gap.to_at > from)
      .map((gap) => [dayOf(Math.max(gap.from_at, from), zone), dayOf(Math.min(gap.to_at, to) - 1, zone)]),
  );
}

/** "Tue 3 Nov to Thu 5 Nov, Mon 9 Nov". */
export function sayGapDays(days: readonly DayRange[], today?: number): string {
  return days
    .map(([from, to]) => (from === to ? sayDay(from, today) : `${sayDay(from, today)} to ${sayDay(to, today)}`))
    .join(', ');
}
