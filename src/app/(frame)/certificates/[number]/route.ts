import { Readable } from 'node:stream';
import { asProblem } from '@/server/request/api';
import { currentViewer } from '@/server/request/viewer';
import { certificatePdf } from '@/server/people/certificates';
import { NotFound } from '@/server/request/input';
import { runtime } from '@/server/runtime';

/** A certificate as a PDF, for whoever sees its learner. */
export async function GET(_: Request, { params }: { params: Promise<{ number: string }> }): Promise<Response> {
  const opened = await runtime();
  try {
    const viewer = await currentViewer();
    if (!viewer) throw new NotFound('No such certificate');
    const { number } = await params;
    return new Response(Readable.toWeb(await certificatePdf(opened, viewer, number)) as ReadableStream, {
      headers: {
        'content-type': 'application/pdf',
        'content-disposition': `inline; filename="certificate-${number}.pdf"`,
        'cache-control': 'private, no-store',
      },
    });
  } catch (error) {
    return asProblem(opened, error);
  }
}
