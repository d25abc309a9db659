import { Readable } from 'node:stream';
import { personRecord, recordPdf } from '@/server/privacy/record';
import { api, problem } from '@/server/request/api';

const DISPOSITION = 'attachment; filename="record';

export const GET = api<{ learnerId: string }>(
  async ({ runtime, viewer, query }, { learnerId }) => {
    const { format = 'json' } = query;
    if (format === 'pdf')
      return new Response(Readable.toWeb(await recordPdf(runtime, viewer, learnerId)) as ReadableStream, {
        headers: { 'content-type': 'application/pdf', 'content-disposition': `${DISPOSITION}.pdf"` },
      });
    if (format !== 'json')
      return problem(422, 'Not valid', 'format is not one of json, pdf', [
        { field: 'format', message: 'is not one of json, pdf' },
      ]);
    return Response.json(await personRecord(runtime, viewer, learnerId), {
      headers: { 'content-disposition': `${DISPOSITION}.json"` },
    });
  },
  { lead: true },
);
