/**
 * What learners did with the items of a course on a day, packed: seven whole numbers an entry, one
 * after the other, in one array for each course and day.
 *
 * Reach and has / has not ask of every learner and item at once. As rows of a database that is a look for
 * each of some hundred thousand; as arrays it is one walk over a few megabytes.
 */
import { ACTION_KINDS, type ActionKind } from '../access/kinds';

/** What one learner did with one item on one day, of one kind. */
export interface ItemActivity {
  courseId: number;
  itemId: number;
  day: number;
  kind: ActionKind;
  events: number;
  /** Estimated ms. */
  ms: number;
  first: number;
  last: number;
}

/** The numbers of an entry; first and last are ms from the day's beginning, so that they fit. */
const WIDTH = 7;
const [LEARNER, ITEM, KIND, EVENTS, MS, FIRST, LAST] = [0, 1, 2, 3, 4, 5, 6];
const OTHER = ACTION_KINDS.indexOf('other');

/** A day of a course. */
export interface PackedDay {
  day: number;
  /** The day's first instant. */
  startsAt: number;
  entries: Int32Array;
}

/** Adds an entry's numbers to a list. */
export function pack(into: number[], learnerId: number, deeds: ItemActivity, startsAt: number): void {
  const { itemId, kind, events, ms, first, last } = deeds;
  into.push(learnerId, itemId, ACTION_KINDS.indexOf(kind), events, ms, first - startsAt, last - startsAt);
}

/** The entries of those learners whom `keeps` keeps. */
export function keepLearners(entries: Int32Array, keeps: (learnerId: number) => boolean): Int32Array {
  const kept = new Int32Array(entries.length);
  let end = 0;
  for (let i = 0; i < entries.length; i += WIDTH) {
    if (!keeps(entries[i + LEARNER])) continue;
    kept.set(entries.subarray(i, i + WIDTH), end);
    end += WIDTH;
  }
  return kept.slice(0, end);
}

/** Entries of several arrays in one. */
export function joinEntries(parts: readonly Int32Array[]): Int32Array {
  const all = new Int32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let end = 0;
  for (const part of parts) {
    all.set(part, end);
    end += part.length;
  }
  return all;
}

/** A sum over entries by learner that changes with any of their numbers, whatever the entries' order: for a check. */
export function sumsByLearner({ day, entries }: PackedDay, sums: Map<number, number>): void {
  for (let i = 0; i < entries.length; i += WIDTH) {
    let hash = day;
    for (let j = 1; j < WIDTH; j += 1) hash = (Math.imul(hash, 0x01000193) ^ entries[i + j]) >>> 0;
    sums.set(entries[i + LEARNER], (sums.get(entries[i + LEARNER]) ?? 0) + hash);
  }
}

/** Positions of ids in a list by the id, from 1 on; 0 or nothing at all for an id that is not in it. */
function placesOf(ids: readonly number[]): Int32Array {
  // An array is many times faster than a map; ids of a database lie close together.
  const places = new Int32Array(ids.reduce((max, id) => Math.max(max, id), 0) + 1);
  ids.forEach((id, place) => (places[id] = place + 1));
  return places;
}

/** How far one item has got. */
export interface ItemTally {
  openers: number;
  opens: number;
  ms: number;
  first: number | null;
  last: number | null;
  /** Openers who came back on another day. */
  returners: number;
  /** Openers whose first opening was before an instant. */
  openersBefore: number;
  /** Openers whose last opening was at the item's own instant or later. */
  openersSince: number;
}

export interface ItemUseQuestion {
  /** Learners who count. */
  learnerIds: readonly number[];
  itemIds: readonly number[];
  before: number;
  /** An instant for each item; null for none. */
  since: readonly (number | null)[];
}

/** How far each item has got with some learners over some days. */
export function tallyItemUse(days: Iterable<PackedDay>, question: ItemUseQuestion): ItemTally[] {
  const { learnerIds, itemIds, before, since } = question;
  const [learners, items] = [placesOf(learnerIds), placesOf(itemIds)];
  const size = learnerIds.length;
  const opens = new Int32Array(size * itemIds.length);
  const first = new Float64Array(opens.length);
  const last = new Float64Array(opens.length);
  const activeDays = new Uint16Array(opens.length);
  const lastDay = new Int32Array(opens.length);
  const ms = new Float64Array(itemIds.length);
  for (const { day, startsAt, entries } of days) {
    for (let i = 0; i < entries.length; i += WIDTH) {
      const [learner, item] = [(learners[entries[i + LEARNER]] || 0) - 1, (items[entries[i + ITEM]] || 0) - 1];
      if (learner < 0 || item < 0) continue;
      ms[item] += entries[i + MS];
      if (entries[i + KIND] === OTHER) continue;
      const at = item * size + learner;
      const [from, to] = [startsAt + entries[i + FIRST], startsAt + entries[i + LAST]];
      if (opens[at] === 0 || from < first[at]) first[at] = from;
      if (to > last[at] || opens[at] === 0) last[at] = to;
      if (activeDays[at] === 0 || lastDay[at] !== day) activeDays[at] += 1;
      lastDay[at] = day;
      opens[at] += entries[i + EVENTS];
    }
  }
  return itemIds.map((_, item) => {
    const tally: ItemTally = {
      openers: 0,
      opens: 0,
      ms: ms[item],
      first: null,
      last: null,
      returners: 0,
      openersBefore: 0,
      openersSince: 0,
    };
    const changed = since[item];
    for (let at = item * size; at < (item + 1) * size; at += 1) {
      if (opens[at] === 0) continue;
      tally.openers += 1;
      tally.opens += opens[at];
      if (tally.first === null || first[at] < tally.first) tally.first = first[at];
      if (tally.last === null || last[at] > tally.last) tally.last = last[at];
      if (activeDays[at] > 1) tally.returners += 1;
      if (first[at] < before) tally.openersBefore += 1;
      if (changed !== null && last[at] >= changed) tally.openersSince += 1;
    }
    return tally;
  });
}

/** What was done by learners within a period, and when outside of it. */
export class ActivityTally {
  private readonly places: Int32Array;
  private readonly items: Int32Array | null;
  private readonly kind: number;
  readonly count: Int32Array;
  /** The first and last within the period; NaN for none. */
  readonly first: Float64Array;
  readonly last: Float64Array;
  /** The last before the period, the first after it, and the last of all outside of it; NaN for none. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  readonly otherLast: Float64Array;

  constructor(
    readonly learnerIds: readonly number[],
    private readonly from: number,
    /** Not included. */
    private readonly to: number,
    /** Items whose days count; every item when null. */
    itemIds: readonly number[] | null,
    /** The kind whose days count; every kind when undefined. */
    kind?: ActionKind,
  ) {
    this.places = placesOf(learnerIds);
    this.items = itemIds && placesOf(itemIds);
    this.kind = kind === undefined ? -1 : ACTION_KINDS.indexOf(kind);
    const empty = () => new Float64Array(learnerIds.length).fill(Number.NaN);
    this.count = new Int32Array(learnerIds.length);
    [this.first, this.last, this.before, this.after, this.otherLast] = [empty(), empty(), empty(), empty(), empty()];
  }

  /** Adds a day that lies whole within the period or whole outside of it. */
  addDay({ startsAt, entries }: PackedDay): void {
    const { kind, items } = this;
    for (let i = 0; i < entries.length; i += WIDTH) {
      if (kind >= 0 && entries[i + KIND] !== kind) continue;
      if (items !== null && !items[entries[i + ITEM]]) continue;
      const from = startsAt + entries[i + FIRST];
      this.add(entries[i + LEARNER], from, startsAt + entries[i + LAST], entries[i + EVENTS]);
    }
  }

  /** Adds some events of a learner that lie all within the period, all before it, or all after it. */
  add(learnerId: number, first: number, last: number, events: number): void {
    const at = (this.places[learnerId] || 0) - 1;
    if (at < 0) return;
    if (first >= this.from && last < this.to) {
      this.count[at] += events;
      if (!(this.first[at] <= first)) this.first[at] = first;
      if (!(this.last[at] >= last)) this.last[at] = last;
      return;
    }
    if (!(this.otherLast[at] >= last)) this.otherLast[at] = last;
    if (last < this.from) {
      if (!(this.before[at] >= last)) this.before[at] = last;
    } else if (!(this.after[at] <= first)) this.after[at] = first;
  }
}
