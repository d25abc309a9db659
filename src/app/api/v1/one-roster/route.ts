import { Readable } from 'node:stream';
import { api } from '@/server/request/api';
import { oneRosterFile } from '@/server/imports/one-roster/export';

/** Everything that OneRoster 1.2 has a place for, as an archive of its CSV files. */
export const GET = api(
  async ({ runtime, viewer }) =>
    new Response(Readable.toWeb(oneRosterFile(runtime, viewer)) as ReadableStream, {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': 'attachment; filename="one-roster.zip"',
        'cache-control': 'private, no-store',
      },
    }),
  { lead: true },
);
