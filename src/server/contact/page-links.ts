/**
 * A page that a mail server found too large goes as an address: it works for 14 days, for whoever was sent it, without signing
 * in. What counts is the press on its page, since mail servers open every address by themselves.
 */
import { randomBytes } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { sayDay } from '@/core/time/words';
import { DAY, dayOf } from '@/core/time/zone';
import { countOpened, findPageLink, goodPageLinks, putPageLink, revokePageLink } from '@/data/contact/page-links';
import type { Viewer } from '@/data/scope';
import { NotFound } from '../request/input';
import { linkHash } from '../request/link-hash';
import type { Runtime } from '../runtime';

/** Days for which an address is good. */
const GOOD_DAYS = 14;

const folderOf = ({ settings }: Pick<Runtime, 'settings'>) => join(settings.dataDir, 'pages');
const pathOf = (runtime: Pick<Runtime, 'settings'>, id: number) => join(folderOf(runtime), String(id));

/**
 * Keeps a page and makes its address, which is told this once; one that the message had is good no more. Returns what the mail
 * says of it.
 * @throws what the machine says
 */
export async function makePageLink(
  runtime: Runtime,
  messageId: number,
  { filename, content }: { filename: string; content: Buffer },
): Promise<string> {
  const { db, clock, settings, zone } = runtime;
  const token = randomBytes(24).toString('base64url');
  const now = clock.now();
  const until = now + GOOD_DAYS * DAY;
  const id = await putPageLink(db, {
    token_hash: linkHash(token),
    message_id: messageId,
    file_name: filename,
    created_at: now,
    until,
  });
  await mkdir(folderOf(runtime), { recursive: true });
  const path = pathOf(runtime, id);
  await writeFile(`${path}.part`, content);
  await rename(`${path}.part`, path);
  return `The page that belongs to this mail was too large for it. It can be read here until ${sayDay(dayOf(until, zone))}:\n${settings.url}/page/${token}`;
}

/** Until when the page behind an address can be read. @throws NotFound where it is revoked, over, or was never made */
export async function pageLink({ db, clock }: Runtime, token: string): Promise<{ until: number }> {
  const link = await findPageLink(db, linkHash(token), clock.now());
  if (!link) throw new NotFound('No such page');
  return { until: link.until };
}

/** The page behind an address, counted. @throws NotFound as `pageLink` does, and where its file is gone */
export async function openPageLink(
  runtime: Runtime,
  token: string,
): Promise<{ file: Readable; size: number; name: string }> {
  const { db, clock } = runtime;
  const link = await findPageLink(db, linkHash(token), clock.now());
  const found = link && (await stat(pathOf(runtime, link.id)).catch(() => null));
  if (!link || !found) throw new NotFound('No such page');
  await countOpened(db, link.id, clock.now());
  return { file: createReadStream(pathOf(runtime, link.id)), size: found.size, name: link.file_name };
}

/** Ends the address of a message's page, and its file. @throws NotFound where there is none that is good */
export async function revokeLink(runtime: Runtime, viewer: Viewer, messageId: number): Promise<void> {
  const id = await revokePageLink(runtime.db, viewer, messageId, runtime.clock.now());
  if (id === null) throw new NotFound('No such page');
  await rm(pathOf(runtime, id), { force: true });
}

/** Lets go of the files of addresses that are good no more. */
export async function forgetPages(runtime: Runtime): Promise<void> {
  const good = new Set((await goodPageLinks(runtime.db, runtime.clock.now())).map(String));
  for (const name of await readdir(folderOf(runtime)).catch(() => []))
    // One that is just being written has its number already.
    if (!good.has(name.replace(/\.part$/, ''))) await rm(join(folderOf(runtime), name), { force: true });
}
