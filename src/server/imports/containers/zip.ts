/** Reading archives: entry by entry, by their own directory, within limits. Names in them are never paths here. */
import type { Readable } from 'node:stream';
import { fromBuffer, open, type Entry, type ZipFile } from 'yauzl';
import { NotSuchAFile } from '@/core/imports/heading';

/** Bytes that an archive may come to, unpacked, and entries that it may hold. */
const MOST_UNPACKED = 200 * 1024 ** 2;
const MOST_ENTRIES = 2000;

const BROKEN = 'It is an archive that cannot be read: it is cut off, has a password, or is none.';

export interface Archive {
  entries: ReadonlyMap<string, Entry>;
  /** The entry's text or bytes as they are unpacked. @throws NotSuchAFile for more than there may be */
  stream(entry: Entry): Promise<AsyncIterable<Buffer>>;
  text(entry: Entry, most?: number): Promise<string>;
  close(): void;
}

const opening = (from: string | Buffer): Promise<ZipFile> =>
  new Promise((resolve, reject) => {
    const options = { lazyEntries: true, autoClose: false };
    const done = (error: Error | null, zip?: ZipFile) => (error ? reject(error) : resolve(zip!));
    if (typeof from === 'string') open(from, options, done);
    else fromBuffer(from, options, done);
  });

function readEntries(zip: ZipFile): Promise<Map<string, Entry>> {
  const entries = new Map<string, Entry>();
  return new Promise((resolve, reject) => {
    zip.on('error', reject);
    zip.on('end', () => resolve(entries));
    zip.on('entry', (entry: Entry) => {
      if (entries.size >= MOST_ENTRIES)
        return reject(new NotSuchAFile(`It is an archive of more than ${MOST_ENTRIES} files.`));
      if (!entry.fileName.endsWith('/')) entries.set(entry.fileName, entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
}

/** Opens an archive by its path. @throws NotSuchAFile */
export async function openArchive(from: string | Buffer): Promise<Archive> {
  let zip: ZipFile;
  let entries: Map<string, Entry>;
  try {
    zip = await opening(from);
    entries = await readEntries(zip);
  } catch (error) {
    if (error instanceof NotSuchAFile) throw error;
    const leadsOut = /relative path|absolute path|invalid characters/.test((error as Error).message);
    throw new NotSuchAFile(leadsOut ? 'It is an archive with a name in it that leads out of it.' : BROKEN);
  }
  let unpacked = 0;
  const stream = async (entry: Entry): Promise<AsyncIterable<Buffer>> => {
    if ((entry.generalPurposeBitFlag & 1) !== 0) throw new NotSuchAFile('It has a password: save it without one.');
    const source = await new Promise<Readable>((resolve, reject) =>
      zip.openReadStream(entry, (error, opened) => (error ? reject(new NotSuchAFile(BROKEN)) : resolve(opened))),
    );
    return (async function* () {
      try {
        for await (const chunk of source as AsyncIterable<Buffer>) {
          unpacked += chunk.length;
          if (unpacked > MOST_UNPACKED)
            throw new NotSuchAFile('It unpacks to more than 200 MB. Save it in smaller pieces, or as CSV.');
          yield chunk;
        }
      } catch (error) {
        throw error instanceof NotSuchAFile ? error : new NotSuchAFile(BROKEN);
      } finally {
        source.destroy();
      }
    })();
  };
  return {
    entries,
    stream,
    async text(entry, most = 8 * 1024 ** 2) {
      const chunks: Buffer[] = [];
      let size = 0;
      for await (const chunk of await stream(entry)) {
        size += chunk.length;
        if (size > most)
          throw new NotSuchAFile(`A part of it is larger than a part of its kind can be: ${entry.fileName}`);
        chunks.push(chunk);
      }
      return Buffer.concat(chunks).toString('utf8');
    },
    close: () => zip.close(),
  };
}
