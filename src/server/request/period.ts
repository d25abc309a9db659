/** Periods of time, as links, forms and the API name them. */
import { IsIn, IsOptional } from 'class-validator';
import { sayDay, sayInstant, sayTime } from '@/core/time/words';
import { HOUR, dayOf, startOfDay, weekday } from '@/core/time/zone';
import { sessionTimes } from '@/data/sessions/session-times';
import type { View } from '@/data/view';
import { AsInstant, InvalidInput } from './input';
import { Filter } from './list';
import { SegmentQuery } from './segment-query';
import type { Runtime } from '../runtime';

const NAMED_PERIODS = ['today', 'yesterday', 'week', '7-days', 'since-set', 'session'] as const;
export type NamedPeriod = (typeof NAMED_PERIODS)[number];

/** A part of what is in view and a period: times, or dates for midnight in the programme's zone. */
export class PeriodQuery extends SegmentQuery {
  @Filter({ help: 'from a time on, or from a date’s beginning' }) @IsOptional() @AsInstant() from?: number;
  @Filter({ help: 'up to a time, not included' }) @IsOptional() @AsInstant() to?: number;
  @Filter({
    help: `instead of the two: ${NAMED_PERIODS.join(', ')}`,
    control: { as: 'choice', label: 'Period', choices: 'periods' },
    replaces: ['from', 'to'],
  })
  @IsOptional()
  @IsIn(NAMED_PERIODS, { message: `is not one of ${NAMED_PERIODS.join(', ')}` })
  period?: NamedPeriod;
}

export interface Period {
  from?: number;
  /** Not included. */
  to?: number;
}

/** An item's own times, for the periods that go by them. */
export interface SetItem {
  opens_at: number | null;
  changed_at: number | null;
}

/**
 * The instants of a period.
 * @throws InvalidInput for one that ends before it starts, or that nothing says the times of
 */
export async function periodOf(
  runtime: Pick<Runtime, 'db' | 'zone'>,
  view: View,
  query: PeriodQuery,
  item?: SetItem,
): Promise<Period> {
  if (query.period !== undefined) {
    if (query.from !== undefined || query.to !== undefined) {
      throw new InvalidInput([{ field: 'period', message: 'stands beside from or to: give one or the other' }]);
    }
    return namedPeriod(runtime, view, query.period, item);
  }
  const { from, to } = query;
  if (from !== undefined && to !== undefined) requireOrder(from, to);
  return { from, to };
}

/** @throws InvalidInput for a period that does not end after it starts */
export function requireOrder(from: number, to: number): void {
  if (to > from) return;
  throw new InvalidInput([{ field: 'to', message: 'does not lie after from: the period ends before it starts' }]);
}

async function namedPeriod(
  { db, zone }: Pick<Runtime, 'db' | 'zone'>,
  view: View,
  period: NamedPeriod,
  item?: SetItem,
): Promise<Period> {
  const today = dayOf(view.now, zone);
  const monday = today - weekday(today);
  const days = (first: number, end: number) => ({ from: startOfDay(first, zone), to: startOfDay(end, zone) });
  switch (period) {
    case 'today':
      return days(today, today + 1);
    case 'yesterday':
      return days(today - 1, today);
    case 'week':
      return days(monday, monday + 7);
    case '7-days':
      return days(today - 6, today + 1);
    case 'since-set': {
      const set = item?.opens_at ?? null;
      if (set === null) {
        const message = item ? 'cannot be told: the outline has no opening time for this item' : 'needs an item';
        throw new InvalidInput([{ field: 'period', message }]);
      }
      return { from: set };
    }
    case 'session': {
      const week = days(monday, monday + 7);
      const [time] = await sessionTimes(db, view, week.from, week.to);
      if (!time)
        throw new InvalidInput([{ field: 'period', message: 'cannot be told: no session has a time this week' }]);
      return { from: time.from, to: time.to ?? time.from + 2 * HOUR };
    }
  }
}

/** A period in words: "3 Nov", "Mon 2 Nov to Thu 5 Nov", "since Mon 2 Nov, 09:00". */
export function sayPeriod({ from, to }: Period, zone: string, now: number): string {
  const today = dayOf(now, zone);
  const isMidnight = (at: number) => startOfDay(dayOf(at, zone), zone) === at;
  const start = (at: number) => (isMidnight(at) ? sayDay(dayOf(at, zone), today) : sayInstant(at, zone, now));
  const end = (at: number) => (isMidnight(at) ? sayDay(dayOf(at - 1, zone), today) : sayInstant(at, zone, now));
  if (from === undefined && to === undefined) return 'at any time';
  if (to === undefined) return `since ${start(from!)}`;
  if (from === undefined) return `up to ${end(to)}`;
  if (isMidnight(from) && isMidnight(to)) {
    return start(from) === end(to) ? `on ${start(from)}` : `${start(from)} to ${end(to)}`;
  }
  if (dayOf(from, zone) === dayOf(to - 1, zone)) return `${sayInstant(from, zone, now)} to ${sayTime(to, zone)}`;
  return `${start(from)} to ${end(to)}`;
}
