/** Rosters by a platform's own list of a course's members: Names and Roles Provisioning Services 2.0 of LTI. */
import { createHmac, randomBytes } from 'node:crypto';
import { Readable } from 'node:stream';
import { setTimeout as pause } from 'node:timers/promises';
import Papa from 'papaparse';
import { ROSTER_HEADS, newsOf, rosterOf } from '@/core/staff/platform-claims';
import { DAY, HOUR, MINUTE } from '@/core/time/zone';
import { coursesById } from '@/data/courses/courses';
import { writing, type Db } from '@/data/db';
import { ownSecret } from '@/data/settings';
import {
  dueRoster,
  enrolledHere,
  platformById,
  updatePlatformCourse,
  type Platform,
  type PlatformCourse,
} from '@/data/staff/platforms';
import { receiveFile } from '../../imports/receive';
import { InvalidInput } from '../../request/input';
import type { Runtime } from '../../runtime';
import { SYSTEM_VIEWER } from '../../system-viewer';
import { NotAnswered, askJson } from './ask';
import { ownAssertion } from './keys';

const READ_SCOPE = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly';
const CONTAINER = 'application/vnd.ims.lti-nrps.v2.membershipcontainer+json';
const MOST_PAGES = 1000;
/** Seconds between looks for a roster that is due, and how long one that is being read is left to whoever reads it, in ms. */
const LOOK = 5000;
const LEFT = 15 * MINUTE;

/**
 * Reads the roster that is due longest, and puts it in the queue like a file. One that could not be read is tried again in an hour.
 * @returns whether one was due
 */
export async function readDueRoster(runtime: Runtime): Promise<boolean> {
  const { db, clock, log } = runtime;
  const now = clock.now();
  if ((await dueRoster(db, now)) === null) return false;
  const own = await writing(db, async (trx) => {
    const due = await dueRoster(trx, now);
    if (due) await updatePlatformCourse(trx, due.id, { next_read_at: now + LEFT });
    return due;
  });
  if (own === null) return false;
  const platform = (await platformById(db, own.platform_id))!;
  try {
    const taken = await readRoster(runtime, platform, own);
    const read = { read_at: clock.now(), read_error: null, next_read_at: clock.now() + DAY, ...taken };
    await updatePlatformCourse(db, own.id, read);
  } catch (error) {
    const isTheirs = error instanceof NotAnswered || error instanceof InvalidInput;
    log[isTheirs ? 'warn' : 'error'](
      { err: error, platform: platform.name },
      'a roster of a platform could not be read',
    );
    const read_error = isTheirs ? error.message.slice(0, 500) : 'could not be stored here';
    await updatePlatformCourse(db, own.id, { read_error, next_read_at: clock.now() + HOUR });
  }
  return true;
}

async function readRoster(runtime: Runtime, platform: Platform, own: PlatformCourse) {
  const { db } = runtime;
  const course = own.course_id === null ? null : (await coursesById(db, [own.course_id])).get(own.course_id);
  if (!course || own.members_url === null) throw new NotAnswered('has no roster that can be read');
  const rows = rosterOf(await membersOf(runtime, platform, own.members_url), platform.name, course.code);
  // A list without a learner is more likely a mistake over there than a course that everybody left.
  if (rows.length === 0) throw new NotAnswered('names no learners');
  const markOf = await marks(db);
  const before = new Set<string>(own.active_before === null ? [] : JSON.parse(own.active_before));
  const news = newsOf(rows, await enrolledHere(db, own.course_id!), (id) => before.has(markOf(id)));
  const active_before = JSON.stringify(
    rows.filter(({ status }) => status === 'active').map((row) => markOf(row.learner_id)),
  );
  if (news.length === 0) return { active_before };
  const file = Papa.unparse(news, { columns: [...ROSTER_HEADS] });
  const about = { kind: 'roster', source: platform.name, file_name: `${own.title.slice(0, 100)}, members.csv` };
  const [import_id] = await receiveFile(runtime, SYSTEM_VIEWER, about, Readable.from([file]));
  return { active_before, import_id };
}

/** Marks of ids, which name nobody: somebody who is erased is not kept by them. */
async function marks(db: Db): Promise<(id: string) => string> {
  const key = await ownSecret(db, 'platform_marks', () => randomBytes(32).toString('base64url'));
  return (id) => createHmac('sha256', key).update(id).digest('base64url').slice(0, 12);
}

/** Everybody in a course of a platform, page by page. @throws NotAnswered */
async function membersOf(runtime: Runtime, platform: Platform, from: string): Promise<unknown[]> {
  const { settings } = runtime;
  // The address came with a launch: it is asked, and told our word, only where it is one of the platform's own.
  const own = [platform.token_url, platform.login_url, platform.keys_url].map((url) => new URL(url).hostname);
  if (!URL.canParse(from) || !own.includes(new URL(from).hostname))
    throw new NotAnswered('keeps its members with another server');
  const form = new URLSearchParams({
    grant_type: 'client_credentials',
    client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
    client_assertion: await ownAssertion(runtime, platform),
    scope: READ_SCOPE,
  });
  const { json } = await askJson(settings, platform.token_url, { form });
  const word = (json as { access_token?: unknown } | null)?.access_token;
  if (typeof word !== 'string') throw new NotAnswered('gives no word to read its members with');
  const members: unknown[] = [];
  let next: string | null = from;
  for (let page = 0; next !== null; page++) {
    if (page === MOST_PAGES) throw new NotAnswered(`has more than ${MOST_PAGES} pages of members`);
    const answered = await askJson(settings, next, { headers: { accept: CONTAINER, authorization: `Bearer ${word}` } });
    const found = (answered.json as { members?: unknown } | null)?.members;
    if (!Array.isArray(found)) throw new NotAnswered('answers with what is no list of members');
    members.push(...found);
    next = answered.next;
  }
  return members;
}

/** Reads rosters as they come due, for ever. */
export async function readRostersForEver(runtime: Runtime, again = LOOK): Promise<never> {
  for (;;) {
    try {
      while (await readDueRoster(runtime)) continue;
    } catch (error) {
      runtime.log.error({ err: error }, 'rosters of platforms could not be looked for, will try again');
    }
    await pause(again);
  }
}
