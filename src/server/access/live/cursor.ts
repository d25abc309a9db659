/**
 * Positions in the stream of events as browsers get them: sealed, since the number of an event says how many
 * others there have been, whoever they are of.
 */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import type { Db } from '@/data/db';
import { ownSecret } from '@/data/settings';

export interface CursorSeal {
  /** What a browser gets instead of an event's number: the same each time. */
  seal(id: number): string;
  /** The number behind it; null for anything that was not sealed here. */
  open(text: string): number | null;
}

/** @param key sixteen bytes that only the server has */
export function cursorsUnder(key: Buffer): CursorSeal {
  // One block, whose second half is a check: no two places are alike, and none can be made up.
  return {
    seal(id) {
      const block = Buffer.alloc(16);
      block.writeBigUInt64BE(BigInt(id));
      const cipher = createCipheriv('aes-128-ecb', key, null).setAutoPadding(false);
      return Buffer.concat([cipher.update(block), cipher.final()]).toString('base64url');
    },
    open(text) {
      const sealed = Buffer.from(text, 'base64url');
      if (sealed.length !== 16) return null;
      const decipher = createDecipheriv('aes-128-ecb', key, null).setAutoPadding(false);
      const block = Buffer.concat([decipher.update(sealed), decipher.final()]);
      return block.readBigUInt64BE(8) === 0n ? Number(block.readBigUInt64BE()) : null;
    },
  };
}

let known: { db: Db; places: Promise<CursorSeal> } | null = null;

/** The installation's own, under a key that is made when it is first asked for. */
export function liveCursors(db: Db): Promise<CursorSeal> {
  if (known?.db !== db) known = { db, places: streamKey(db).then(cursorsUnder) };
  return known.places;
}

async function streamKey(db: Db): Promise<Buffer> {
  return Buffer.from(await ownSecret(db, 'stream_key', () => randomBytes(16).toString('hex')), 'hex');
}
