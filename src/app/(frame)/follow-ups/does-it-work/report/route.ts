import { Readable } from 'node:stream';
import { doesItWorkReport } from '@/server/contact/does-it-work-report';
import { own } from '@/server/request/api';

/** What came of contacts, with the page's filters, as PDF. */
export const GET = own<object>(async ({ query, runtime, viewer }) => {
  const file = await doesItWorkReport(runtime, viewer, query);
  return new Response(Readable.toWeb(file) as ReadableStream, {
    headers: {
      'content-type': 'application/pdf',
      'content-disposition': 'attachment; filename="does-it-work.pdf"',
    },
  });
});
