import { Readable } from 'node:stream';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { openPageLink, pageLink } from '@/server/contact/page-links';
import { asProblem } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { plainPage } from '@/server/request/plain-page';
import { runtime, type Runtime } from '@/server/runtime';

interface Asked {
  params: Promise<{ token: string }>;
}

const GONE = {
  title: 'This page is no longer there',
  says: ['Its time is over, or whoever sent it took it back. Answer their mail, and they can send it again.'],
};

async function answer(read: (opened: Runtime) => Promise<Response>): Promise<Response> {
  const opened = await runtime();
  try {
    return await read(opened);
  } catch (error) {
    return error instanceof NotFound ? plainPage(GONE, 404) : asProblem(opened, error);
  }
}

/** Says that there is a page, and until when: opening the address alone gives nothing away and counts nothing. */
export async function GET(_: Request, { params }: Asked): Promise<Response> {
  return answer(async (opened) => {
    const { until } = await pageLink(opened, (await params).token);
    return plainPage({
      title: 'A page was sent to you',
      says: [`It can be read until ${sayDay(dayOf(until, opened.zone))}. Each time it is opened, that is counted.`],
      button: 'Open the page (PDF)',
    });
  });
}

/** The page itself. */
export async function POST(_: Request, { params }: Asked): Promise<Response> {
  return answer(async (opened) => {
    const { file, size, name } = await openPageLink(opened, (await params).token);
    return new Response(Readable.toWeb(file) as ReadableStream, {
      headers: {
        'content-type': 'application/pdf',
        'content-length': String(size),
        'content-disposition': `inline; filename="${name}"`,
        'cache-control': 'private, no-store',
        'referrer-policy': 'no-referrer',
        'x-robots-tag': 'noindex, nofollow',
      },
    });
  });
}
