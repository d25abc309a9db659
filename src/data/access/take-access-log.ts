/**
 * Taking access-log rows, so that overlapping files add nothing twice and two true
 * clicks in one second both stay.
 *
 * A row with an id of its source's own is known by that id. Any other is known by (time,
 * actor, course, item, action, address) and its ordinal among identical rows in its file:
 * each row of a file *claims* one stored event that looks the same and is not yet claimed
 * by that file; when there is none left, it is new. So no hash has to be kept: the one
 * index by actor and time finds the events to compare with, and an event later (or
 * earlier) than all of its actor's needs no look at all.
 */
import { plainCell } from '@/core/imports/cells';
import type { CsvRow } from '@/core/imports/csv-reader';
import { widthFault, type Fault, type Heading } from '@/core/imports/heading';
import { EARLIEST } from '@/core/imports/validators';
import { isSkipped, parseInstant } from '@/core/time/instant';
import { MINUTE } from '@/core/time/zone';
import type { RawConnection } from '../db';
import { isStaffIn, openLookup } from './actors';
import { EventWriter, type NewEvent } from './event-writer';
import type { OpenImporter, Outcome, ImportContext, Importer } from '../imports/importer';

/** A source's clock may run ahead by this much before its events are refused. */
export const CLOCK_TOLERANCE = 5 * MINUTE;

const OF_ANOTHER: Fault = { field: 'event_id', reason: 'stands for something that another person did' };

interface StoredActor {
  learner_id: number | null;
  staff_id: number | null;
}

interface Candidate {
  id: number;
  course_id: number;
  item_id: number | null;
  action_id: number;
  address: string | null;
}

/** Stored events that look alike, of one actor at one instant: their ids that no row has claimed, the first last. */
type Unclaimed = Map<string, number[]>;

/** Instants of actors whose unclaimed events are kept at hand. */
const INSTANTS_KEPT = 20_000;

/** One bit for each event id. */
class Claims {
  private bits = new Uint8Array(4096);

  add(id: number) {
    const byte = id >>> 3;
    if (byte >= this.bits.length) {
      const wider = new Uint8Array(Math.max(byte + 1, this.bits.length * 2));
      wider.set(this.bits);
      this.bits = wider;
    }
    this.bits[byte] |= 1 << (id & 7);
  }

  has(id: number): boolean {
    return ((this.bits[id >>> 3] ?? 0) & (1 << (id & 7))) !== 0;
  }
}

/** Columns by place in the row; -1 for one the file does not have. */
function placesOf({ heading }: ImportContext) {
  const place = (name: string) => heading.columns.find((column) => column.name === name)?.index ?? -1;
  return {
    time: place('time'),
    learner: place('learner_id'),
    course: place('course'),
    item: place('item_id'),
    action: place('action'),
    address: place('address'),
    event: place('event_id'),
  };
}

export const openAccessLogImporter: OpenImporter = (raw, context) => new AccessLogImporter(raw, context);

class AccessLogImporter implements Importer {
  private readonly lookup;
  private readonly places;
  private readonly claims = new Claims();
  private readonly instants = new Map<string, Unclaimed>();
  /** Earliest and latest stored event of an actor; staff under negative ids. */
  private readonly spans = new Map<number, [number, number]>();
  /** Columns that are looked up nowhere, so that their checks have to be asked. */
  private readonly freeCells: Heading['columns'];
  /** The row at hand, the same object for each: a million of them would be a lot to throw away. */
  private readonly event: NewEvent = {
    at: 0,
    learnerId: null,
    staffId: null,
    courseId: 0,
    itemId: null,
    actionId: 0,
    address: null,
    externalId: null,
  };
  private readonly writer: EventWriter;
  private readonly sql;

  constructor(
    private readonly raw: RawConnection,
    private readonly context: ImportContext,
  ) {
    this.lookup = openLookup(raw, context.zone);
    this.places = placesOf(context);
    this.freeCells = context.heading.columns.filter(({ name }) => ['action', 'address', 'event_id'].includes(name));
    this.writer = new EventWriter(raw, context.sourceId, context.zone);
    const same = (actor: string) =>
      raw.prepare(
        `SELECT id, course_id, item_id, action_id, address FROM event
         WHERE ${actor} = ? AND at = ? AND external_id IS NULL ORDER BY id DESC`,
      );
    const span = (actor: string) =>
      raw
        .prepare(
          `SELECT (SELECT at FROM event WHERE ${actor} = @id ORDER BY at LIMIT 1),
                  (SELECT at FROM event WHERE ${actor} = @id ORDER BY at DESC LIMIT 1)`,
        )
        .raw();
    this.sql = {
      sameOfLearner: same('learner_id'),
      sameOfStaff: same('staff_id'),
      spanOfLearner: span('learner_id'),
      spanOfStaff: span('staff_id'),
      byExternalId: raw.prepare('SELECT learner_id, staff_id FROM event WHERE source_id = ? AND external_id = ?'),
    };
  }

  take(row: CsvRow): Outcome {
    const fault = this.read(row);
    if (fault) return fault;
    const stored = this.isStored();
    if (stored) return stored === 'of another' ? OF_ANOTHER : 'duplicate';
    this.claims.add(this.writer.add(this.event));
    const span = this.spanOfActor();
    const { at } = this.event;
    if (at < span[0]) span[0] = at;
    if (at > span[1]) span[1] = at;
    return 'accepted';
  }

  replay(row: CsvRow): void {
    if (!this.read(row)) this.isStored();
  }

  endBatch(): void {
    this.writer.flush();
  }

  /**
   * Reads the event a row stands for into `event`; returns why it is none. What is looked up
   * is right when it is found, so its cell is checked only to say what is wrong with it.
   */
  private read({ cells }: CsvRow): Fault | null {
    const { heading, timezone, now } = this.context;
    if (cells.length !== heading.width) {
      const fault = widthFault(heading, cells);
      if (fault) return fault;
    }
    const { places, lookup, event } = this;
    const time = cellAt(cells, places.time);
    const at = parseInstant(time, timezone);
    if (at === null) return this.cellFault(cells, 'time') ?? { field: 'time', reason: 'is not a time' };
    if (at > now + CLOCK_TOLERANCE) return { field: 'time', reason: 'lies in the future' };
    if (at < EARLIEST) return { field: 'time', reason: 'lies before 1990' };
    if (isSkipped(time, timezone)) return { field: 'time', reason: `is none in ${timezone}: the clocks left it out` };

    const person = cellAt(cells, places.learner);
    const learnerId = lookup.learners.get(person);
    const staffId =
      lookup.staff.get(person) ?? (learnerId === undefined ? undefined : lookup.staffOfLearner.get(learnerId));
    if (learnerId === undefined && staffId === undefined) {
      const unknown = { field: 'learner_id', reason: `no learner or member of staff has the id ${person}` };
      return this.cellFault(cells, 'learner_id') ?? unknown;
    }
    const course = cellAt(cells, places.course);
    const courseId = lookup.courses.get(course);
    if (courseId === undefined) {
      return this.cellFault(cells, 'course') ?? { field: 'course', reason: `there is no course ${course}` };
    }
    if (at < (lookup.closed.get(courseId) ?? -Infinity))
      return {
        field: 'course',
        reason: `the log of ${course} is closed: its events have been archived, or their time is over`,
      };
    if (at < (lookup.earliest.get(courseId) ?? EARLIEST)) {
      return { field: 'time', reason: `lies more than two years before course ${course} begins` };
    }
    const item = cellAt(cells, places.item);
    const itemId = item === '' ? null : lookup.items.get(courseId)?.get(item);
    if (itemId === undefined) {
      return this.cellFault(cells, 'item_id') ?? { field: 'item_id', reason: `course ${course} has no item ${item}` };
    }
    for (const { name, index, check } of this.freeCells) {
      const reason = check(plainCell(cells[index].trim()));
      if (reason !== null) return { field: name, reason };
    }
    const isStaff = isStaffIn(lookup, learnerId, staffId, courseId);
    event.at = at;
    event.learnerId = isStaff ? null : learnerId!;
    event.staffId = isStaff ? staffId! : null;
    event.courseId = courseId;
    event.itemId = itemId;
    event.actionId = this.writer.actionId(cellAt(cells, places.action));
    event.address = cellAt(cells, places.address) || null;
    event.externalId = cellAt(cells, places.event) || null;
    return null;
  }

  /** What the column's own checks say of a cell. */
  private cellFault(cells: readonly string[], name: string): Fault | null {
    const column = this.context.heading.columns.find((column) => column.name === name);
    const reason = column?.check(plainCell(cells[column.index].trim())) ?? null;
    return reason === null ? null : { field: name, reason };
  }

  /** Is the event in the log already? Claims the stored one, so that the next alike looks further. */
  private isStored(): boolean | 'of another' {
    const { event } = this;
    if (event.externalId !== null) {
      const stored = this.sql.byExternalId.get(this.context.sourceId, event.externalId) as StoredActor | undefined;
      if (!stored) return false;
      const isSame =
        stored.learner_id === null ? this.isPerson(stored.staff_id!) : stored.learner_id === event.learnerId;
      return isSame || 'of another';
    }
    const [first, last] = this.spanOfActor();
    if (event.at < first || event.at > last) return false;
    const free = this.unclaimedAt()
      .get(looks(event.courseId, event.itemId, event.actionId, event.address))
      ?.pop();
    if (free === undefined) return false;
    this.claims.add(free);
    return true;
  }

  /**
   * What is stored of the row's actor at its instant and not yet claimed. Read once for each instant:
   * what this file adds is claimed at once, so it never joins. However many look alike, each
   * row costs the same.
   */
  private unclaimedAt(): Unclaimed {
    const { learnerId, staffId, at } = this.event;
    const key = `${learnerId ?? `s${staffId}`}/${at}`;
    let unclaimed = this.instants.get(key);
    if (unclaimed) return unclaimed;
    unclaimed = new Map();
    const stored =
      learnerId === null ? this.sql.sameOfStaff.all(staffId, at) : this.sql.sameOfLearner.all(learnerId, at);
    for (const { id, course_id, item_id, action_id, address } of stored as Candidate[]) {
      if (this.claims.has(id)) continue;
      const look = looks(course_id, item_id, action_id, address);
      const alike = unclaimed.get(look);
      if (alike) alike.push(id);
      else unclaimed.set(look, [id]);
    }
    if (this.instants.size >= INSTANTS_KEPT) this.instants.clear();
    this.instants.set(key, unclaimed);
    return unclaimed;
  }

  /** Is the row's person this member of staff, as whom or as a learner? */
  private isPerson(staffId: number): boolean {
    const { learnerId, staffId: own } = this.event;
    return own === staffId || (learnerId !== null && this.lookup.staffOfLearner.get(learnerId) === staffId);
  }

  private spanOfActor(): [number, number] {
    const { learnerId, staffId } = this.event;
    const key = learnerId ?? -staffId!;
    let span = this.spans.get(key);
    if (!span) {
      const query = learnerId === null ? this.sql.spanOfStaff : this.sql.spanOfLearner;
      const [first, last] = query.get({ id: learnerId ?? staffId }) as [number | null, number | null];
      this.spans.set(key, (span = [first ?? Infinity, last ?? -Infinity]));
    }
    return span;
  }
}

/** What makes two events of one actor at one instant the same. */
function looks(courseId: number, itemId: number | null, actionId: number, address: string | null): string {
  return `${courseId}/${itemId ?? ''}/${actionId}/${address ?? ''}`;
}

/** A cell by its place, trimmed; empty where the file has no such column. */
function cellAt(cells: readonly string[], place: number): string {
  return place < 0 ? '' : plainCell(cells[place].trim());
}
