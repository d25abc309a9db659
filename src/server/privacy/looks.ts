/** Who looked at whom: noted beside every page and file that shows somebody, written down a moment later, many at once. */
import { IsOptional, MaxLength } from 'class-validator';
import { groupBy } from '@/core/group-by';
import { isLead } from '@/core/staff/rights';
import { startOfDay } from '@/core/time/zone';
import { writing, type Db } from '@/data/db';
import { findLearner, findLearners } from '@/data/people/learners';
import { recordsOf } from '@/data/privacy/erase';
import { addLooks, looksPage, staffNamed, type LookRow, type NewLook } from '@/data/privacy/looks';
import type { Viewer } from '@/data/scope';
import { AsDay, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { ListQuery, limitOf, placeOf, writeCursor } from '../request/list-query';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';

/** Looks are written down together, this long after the first of them, in ms. */
const TOGETHER = 1000;
/** More than these are not held back. */
const MOST_HELD = 500;

interface Look {
  /** The learner's number, or the id by which the viewer asked for them; null for what is of nobody alone. */
  learner: number | string | null;
  /** Which page, or `export`. */
  what: string;
  subject?: string;
}

interface Held extends Look {
  viewer: Viewer;
  at: number;
}

type Parts = Pick<Runtime, 'db' | 'clock' | 'log'>;

/** What has been looked at and is not written down yet, by the database it belongs to. */
const held = new WeakMap<Db, Held[]>();

/** Looks of the last minute, by who looked at whom and how: a page that is drawn again after a press is the same look. */
const recent = new WeakMap<Db, Map<string, number>>();
const SAME_LOOK = 60_000;

function isSameAgain({ db, clock }: Parts, { staffId }: Viewer, { learner, what, subject = '' }: Look): boolean {
  if (what === 'export') return false;
  const known = recent.get(db) ?? new Map<string, number>();
  recent.set(db, known);
  const key = JSON.stringify([staffId, learner, what, subject]);
  const now = clock.real();
  const last = known.get(key);
  // What is old stands first, since whatever is looked at anew is put last.
  known.delete(key);
  known.set(key, last !== undefined && now - last < SAME_LOOK ? last : now);
  for (const [oldest, at] of known) {
    if (now - at < SAME_LOOK && known.size < MOST_HELD * 10) break;
    known.delete(oldest);
  }
  return last !== undefined && now - last < SAME_LOOK;
}

/** Notes that somebody looks at somebody, or takes something away. Costs the page nothing: it is written down afterwards. */
export function noteLook(runtime: Parts, viewer: Viewer, look: Look): void {
  if (isSameAgain(runtime, viewer, look)) return;
  const looks = held.get(runtime.db) ?? [];
  looks.push({ ...look, viewer, at: runtime.clock.now() });
  held.set(runtime.db, looks);
  if (looks.length > 1 && looks.length < MOST_HELD) return;
  setTimeout(() => void writeLooks(runtime), looks.length >= MOST_HELD ? 0 : TOGETHER).unref();
}

/** Writes down what is held. What cannot be written now is held on. */
export async function writeLooks(runtime: Parts): Promise<void> {
  const looks = held.get(runtime.db) ?? [];
  held.delete(runtime.db);
  if (looks.length === 0) return;
  try {
    const numbers = await numbersOf(runtime.db, looks);
    const rows = looks.flatMap(({ viewer, at, learner, what, subject = '' }): NewLook[] => {
      const id = typeof learner === 'string' ? (numbers.get(viewer)?.get(learner) ?? null) : learner;
      // Whoever was asked for and is not there, or not theirs, was not seen.
      if (typeof learner === 'string' && id === null) return [];
      return [{ at, staff_id: viewer.staffId || null, learner_id: id, what, subject }];
    });
    if (rows.length > 0) await writing(runtime.db, (trx) => addLooks(trx, rows));
  } catch (error) {
    runtime.log.warn({ err: error }, 'looks could not be written down yet');
    held.set(runtime.db, [...looks, ...(held.get(runtime.db) ?? [])]);
    setTimeout(() => void writeLooks(runtime), 10 * TOGETHER).unref();
  }
}

/** Numbers of those whom each viewer asked for by an id, at once. */
async function numbersOf(db: Db, looks: readonly Held[]): Promise<Map<Viewer, Map<string, number>>> {
  const numbers = new Map<Viewer, Map<string, number>>();
  for (const [viewer, own] of groupBy(looks, (look) => look.viewer)) {
    const ids = own.flatMap(({ learner }) => (typeof learner === 'string' ? [learner] : []));
    if (ids.length > 0) numbers.set(viewer, await findLearners(db, viewer, [...new Set(ids)]));
  }
  return numbers;
}

/** Filters that name somebody are not written down: whom it is of stands beside it as a number. */
const OF_PEOPLE = ['q', 'learner', 'cursor', 'from', 'in', 'place'];

/**
 * Notes what an answer gave away: a learner's own page or record, or a file. Everything that goes out by an address of the
 * application goes through here, so that a new one is not forgotten.
 */
export function noteAnswer(
  runtime: Parts,
  viewer: Viewer,
  request: Request,
  answer: Response,
  by: 'page' | 'api',
): void {
  if (!answer.ok || (request.method !== 'GET' && request.method !== 'HEAD')) return;
  const { pathname, searchParams } = new URL(request.url);
  const learner = /^\/(?:api\/v1\/)?learners\/([^/]+)/.exec(pathname)?.[1] ?? searchParams.get('learner');
  const isFile = (answer.headers.get('content-disposition') ?? '').startsWith('attachment');
  if (learner === null && !isFile) return;
  const kept = [...searchParams]
    .filter(([name]) => !OF_PEOPLE.includes(name))
    .map(([name, value]) => `${name}=${value}`);
  const path = pathname.replace(/^(\/(?:api\/v1\/)?learners)\/[^/]+/, '$1/…');
  noteLook(runtime, viewer, {
    learner: learner === null ? null : safelyDecoded(learner),
    what: isFile ? 'export' : by,
    subject: [path, ...kept].join(' ').slice(0, 300),
  });
}

function safelyDecoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

const long = { message: 'is too long' };

class LooksQuery extends ListQuery {
  @Filter({ help: 'at a learner, by their id', says: (id) => `At learner ${id}` })
  @IsOptional()
  @MaxLength(200, long)
  learner?: string;

  @Filter({ help: 'by a member of staff, by any part of their name or address', says: (name) => `By ${name}` })
  @IsOptional()
  @MaxLength(200, long)
  staff?: string;

  @Filter({ help: 'from a date on', says: (from) => `From ${from.slice(0, 10)}` }) @IsOptional() @AsDay() from?: number;
  @Filter({ help: 'up to a date, included', says: (to) => `To ${to.slice(0, 10)}` }) @IsOptional() @AsDay() to?: number;
}

/** Newest first. @throws InvalidInput, NotFound for others than leads */
export async function looks(runtime: Runtime, viewer: Viewer, values: Values) {
  if (!isLead(viewer)) throw new NotFound();
  const { db, zone, clock } = runtime;
  const query = readInput(LooksQuery, values, zone);
  const { learner, staff, from, to } = query;
  await writeLooks(runtime);
  const id = learner === undefined ? undefined : await findLearner(db, viewer, learner);
  if (id === null) throw new NotFound('No such learner');
  const search = {
    learnerIds: id === undefined ? undefined : await recordsOf(db, id),
    staffIds: staff === undefined ? undefined : await staffNamed(db, viewer, staff),
    from: from === undefined ? undefined : startOfDay(from, zone),
    until: to === undefined ? undefined : startOfDay(to + 1, zone) - 1,
  };
  const found = await looksPage(db, viewer, search, { limit: limitOf(query), after: placeOf(query) });
  const last = found.rows.at(-1);
  return {
    query,
    rows: found.rows,
    total: found.total,
    next: found.goesOn && last ? writeCursor([last.at, last.id]) : null,
    now: clock.now(),
    zone,
  };
}

export const LOOKS = {
  name: 'looks',
  path: '/set-up/looks',
  query: LooksQuery,
  columns: {
    at: { title: 'When', figures: { at: (row) => isoOrNull(row.at) } },
    by: { title: 'Who', isKey: true, figures: { by: (row) => row.by, email: (row) => row.email } },
    of: { title: 'At whom', figures: { learner_id: (row) => row.learner_id, name: (row) => row.name } },
    what: { title: 'What', figures: { what: (row) => row.what, subject: (row) => row.subject } },
  },
  read: looks,
} satisfies List<LookRow>;
