/** Addresses from which files and calendars come by themselves: kept by leads, fetched by the worker. */
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { EVERY } from '@/core/imports/every';
import { lastPart } from '@/core/feed/xapi/read';
import { addAudit } from '@/data/audit';
import { findSegment } from '@/data/courses/segments';
import * as addresses from '@/data/imports/addresses';
import type { FetchedAddress } from '@/data/imports/addresses';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../../request/input';
import { requireLead } from '../../request/lead';
import type { Runtime } from '../../runtime';
import { SYSTEM_VIEWER } from '../../system-viewer';
import { AUTO, receiveFile } from '../receive';
import { incomingPath } from '../run';
import { NotFetched, fetchFile } from './fetch';

const EVERY_VALUES = Object.keys(EVERY);

/** After a failure it is tried again so soon, in ms, where its own time is not sooner. */
const TRY_AGAIN = 15 * 60_000;

export class AddressInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(2000, { message: 'is longer than 2,000 characters' }) url!: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(100, { message: 'is longer than 100 characters' }) source!: string;
  /** The course, or its group, that a calendar is of: `DRY`, or `DRY/A`. */
  @IsOptional() @MaxLength(400, { message: 'is longer than 400 characters' }) part?: string;
  @IsOptional() @IsIn(EVERY_VALUES, { message: `is not one of ${EVERY_VALUES.join(', ')}` }) every?: string;
}

/** An address as https, also where it is written as calendars are subscribed to. */
function readUrl(text: string): URL {
  const bad = (message: string) => new InvalidInput([{ field: 'url', message }]);
  let url: URL;
  try {
    url = new URL(text.trim().replace(/^webcals?:/i, 'https:'));
  } catch {
    throw bad('is not an address');
  }
  if (url.protocol !== 'https:') throw bad('does not begin with https://');
  url.hash = '';
  return url;
}

/** An address without what in it may be a secret. @example sayAddress('https://a.example/t/x.ics?key=1') // "a.example/…/x.ics" */
export function sayAddress(url: string): string {
  const { host, pathname } = new URL(url);
  const parts = pathname.split('/').filter(Boolean);
  const last = parts.at(-1) ?? '';
  // A long last part is the secret itself.
  const name = last.length > 0 && last.length <= 30 ? last : last === '' ? '' : '…';
  return [host, ...(parts.length > 1 ? ['…'] : []), name].filter(Boolean).join('/');
}

/** Adds an address that is fetched from now on. @throws InvalidInput; NotFound for anybody but a lead */
export async function addAddress({ db, clock }: Runtime, viewer: Viewer, values: Values): Promise<void> {
  requireLead(viewer);
  const { url, source, part, every = '1440' } = readInput(AddressInput, values);
  const { href } = readUrl(url);
  if (part) {
    const names = part.includes('/') ? { group: part } : { course: part };
    if ((await findSegment(db, viewer, names)) === null)
      throw new InvalidInput([{ field: 'part', message: `is not known: there is no course or group ${part}` }]);
  }
  const row = { url: href, source, part: part || null, every_minutes: Number(every) };
  const staff_id = viewer.staffId || null;
  const added = await addresses.addAddress(db, { ...row, created_at: clock.now(), staff_id });
  if (added === null) throw new InvalidInput([{ field: 'url', message: `is fetched for ${source} already` }]);
  await addAudit(db, {
    at: clock.now(),
    staff_id,
    what: 'added an address',
    subject: `${source}: ${sayAddress(href)}`,
  });
}

/** Ends the fetching of an address. @throws NotFound */
export async function removeAddress({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  const gone = await addresses.removeAddress(db, id);
  if (gone === null) throw new NotFound('No such address');
  const subject = `${gone.source}: ${sayAddress(gone.url)}`;
  await addAudit(db, { at: clock.now(), staff_id: viewer.staffId || null, what: 'removed an address', subject });
}

/** Has an address fetched now. @throws NotFound */
export async function fetchNow({ db }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  if (!(await addresses.fetchSoon(db, id))) throw new NotFound('No such address');
}

/** Fetches the next address whose time has come. Returns whether there was one. */
export async function fetchNext(runtime: Runtime, trust: { ca?: string; limit?: number } = {}): Promise<boolean> {
  const { db, clock, settings } = runtime;
  const address = await addresses.claimAddress(db, clock.real());
  if (address === null) return false;
  const path = incomingPath(runtime, { path: randomUUID() });
  const note = (what: Partial<FetchedAddress>) =>
    addresses.noteFetched(db, address.id, { checked_at: clock.now(), ...what });
  try {
    const fetched = await fetchFile(address, path, { allowPrivate: settings.allowPrivate, ...trust });
    const isNew = fetched !== null && fetched.digest !== address.digest;
    if (isNew) {
      await receiveFile(runtime, SYSTEM_VIEWER, askedOf(address), createReadStream(path));
      await note({ ...fetched, taken_at: clock.now() });
    }
    await note({ problem: null, failing_since: null });
  } catch (error) {
    const problem = wordsOf(error);
    if (problem === null) runtime.log.error({ err: error, source: address.source }, 'an address could not be fetched');
    else runtime.log.warn({ source: address.source, problem }, 'an address could not be fetched');
    const next = clock.real() + Math.min(TRY_AGAIN, address.every_minutes * 60_000);
    await note({
      problem: problem ?? 'could not be fetched: the log says why',
      failing_since: address.failing_since ?? clock.now(),
      next_at: next,
    });
  } finally {
    await rm(path, { force: true });
  }
  return true;
}

function askedOf({ url, source, part }: FetchedAddress): Values {
  const name = lastPart(new URL(url).pathname);
  const file_name = name !== '' && name.length <= 30 ? name : sayAddress(url);
  return { kind: AUTO, source, only: 'known', file_name, ...(part && { part }) };
}

/** Why a file was not taken, as the end of a sentence that begins with its address; null for what is this machine's trouble. */
function wordsOf(error: unknown): string | null {
  if (error instanceof NotFetched) return error.message;
  return error instanceof InvalidInput ? error.errors.map(({ message }) => message).join('; ') : null;
}
