/** Has and has not: for something one can do in a course and a period, who did and who did not. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { ACTION_KINDS, type ActionKind } from '@/core/access/kinds';
import { activityWords } from '@/core/item-use/who-did';
import { ITEM_KINDS, type ItemKind } from '@/core/courses/item-kinds';
import { sayCount } from '@/core/time/words';
import { dayOf, startOfDay } from '@/core/time/zone';
import { coursesInLog, itemsOfLog, itemsOfSort } from '@/data/access/log/names';
import { whoDidRows, type WhoDidRow } from '@/data/item-use/item-use';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { isoOrNull } from '../request/values';
import { archivedActivity } from '../archive/log';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { PeriodQuery, periodOf, sayPeriod, type Period } from '../request/period';
import type { Runtime } from '../runtime';
import { openView } from '../request/view';

const long = { message: 'is too long' };
const oneOf = (names: readonly string[]) => ({ message: `is not one of ${names.join(', ')}` });

class WhoDidQuery extends PeriodQuery {
  @IsOptional() @MaxLength(200, long) item?: string;
  /** Any item of a unit, or of a sort: "any discussion in week 3". */
  @IsOptional() @MaxLength(200, long) unit?: string;
  @IsOptional() @IsIn(ITEM_KINDS, oneOf(ITEM_KINDS)) item_kind?: ItemKind;
  @IsOptional() @IsIn(ACTION_KINDS, oneOf(ACTION_KINDS)) kind?: ActionKind;
  @IsOptional() @MaxLength(200, long) action?: string;
}

export interface Answer {
  query: WhoDidQuery;
  view: View;
  period: Period;
  /** The one item asked about; null for several. */
  item: { item_id: string; title: string } | null;
  did: WhoDidRow[];
  didNot: WhoDidRow[];
  /** What was asked, in words: "opened Footings, Mon 2 Nov to Thu 5 Nov". */
  deed: string;
  /** The answer as a sentence. */
  says: string;
}

/**
 * Who, of those enrolled at any moment of the period, did it and who did not, to the second.
 * @throws InvalidInput naming the field; NotFound for an item, unit, course or group that is not there
 */
export async function answerWhoDid(runtime: Runtime, viewer: Viewer, values: Values): Promise<Answer> {
  const query = readInput(WhoDidQuery, values, runtime.zone);
  const { item: itemId, unit, item_kind, kind, action } = query;
  if (!itemId && !unit && !item_kind && !kind && !action) {
    throw new InvalidInput([{ field: 'item', message: 'is missing: name an item, a unit, a kind or an action' }]);
  }
  const { clock, zone, db } = runtime;
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const inView = await coursesInLog(db, view);
  const items =
    itemId !== undefined
      ? await itemsOfLog(db, inView, itemId)
      : unit !== undefined || item_kind !== undefined
        ? await itemsOfSort(db, inView, { unit, kind: item_kind })
        : [];
  if (itemId !== undefined && items.length === 0) throw new NotFound('No such item');
  if (itemId !== undefined && items.length > 1) {
    const message = `is missing: ${items.length} courses have an item ${itemId}`;
    throw new InvalidInput([{ field: 'course', message }]);
  }
  if (items.length === 0 && (unit !== undefined || item_kind !== undefined)) throw new NotFound('No such item');
  const period = await periodOf(runtime, view, query, items[0]);
  const [start, end] = [period.from ?? 0, period.to ?? clock.now() + 1];
  if (end <= start) throw new InvalidInput([{ field: 'from', message: 'lies in the future' }]);
  const rows = await whoDidRows(
    db,
    view,
    {
      itemIds: items.map((item) => item.id),
      courseIds: items.length > 0 ? [...new Set(items.map((item) => item.course_id))] : inView,
      kind,
      action,
      from: start,
      to: end,
      days: [dayOf(start, zone), dayOf(end - 1, zone)],
      brokenDays: brokenDays(start, end, zone),
      now: clock.now(),
    },
    archivedActivity(runtime),
  );
  const did = rows.filter((row) => row.count > 0);
  const when = sayPeriod(period, zone, clock.now());
  const deed = `${activityWords({ kind, action, item: itemId === undefined ? undefined : items[0].title, unit, itemKind: item_kind, isSession: items.length > 0 && items.every((item) => item.kind === 'session') })}, ${when}`;
  return {
    query,
    view,
    period,
    item: itemId === undefined ? null : { item_id: itemId, title: items[0].title },
    did,
    didNot: rows.filter((row) => row.count === 0),
    deed,
    says: `${did.length} of ${sayCount(rows.length, 'learner')} ${deed}; ${rows.length - did.length} did not.`,
  };
}

/** Days that a period begins or ends inside of, each with its own bounds. */
function brokenDays(start: number, end: number, zone: string) {
  return [...new Set([dayOf(start, zone), dayOf(end, zone)])]
    .map((day) => ({ day, from: startOfDay(day, zone), to: startOfDay(day + 1, zone) }))
    .filter(({ from, to }) => (start > from && start < to) || (end > from && end < to));
}

/** The answer as the API gives it. @throws InvalidInput, NotFound */
export async function whoDid(runtime: Runtime, viewer: Viewer, values: Values) {
  const { did, didNot } = await answerWhoDid(runtime, viewer, values);
  return {
    did: did.map(({ learner_id, name, count, first, last }) => ({
      learner_id,
      name,
      count,
      first: isoOrNull(first),
      last: isoOrNull(last),
    })),
    did_not: didNot.map(({ learner_id, name, other_last }) => ({
      learner_id,
      name,
      other_last: isoOrNull(other_last),
    })),
  };
}
