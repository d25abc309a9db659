import { mayBringMail } from '@/server/staff/bearers';
import { asProblem, onlyBy, problem } from '@/server/request/api';
import { LARGEST_MAIL, takeMail } from '@/server/contact/inbound';
import { readBody } from '@/server/request/request-body';
import { runtime } from '@/server/runtime';

/** One mail that came in (RFC 5322), from the mail server's own delivery: the body as it is. */
export async function POST(request: Request): Promise<Response> {
  const opened = await runtime();
  try {
    const header = request.headers.get('authorization') ?? '';
    const token = /^bearer /i.test(header) ? header.slice(7).trim() : '';
    if (!mayBringMail(opened, token)) {
      return problem(401, 'Not allowed', 'Send the token of LEESHORE_INBOUND_TOKEN as a bearer token.');
    }
    const source = await readBody(request.body, LARGEST_MAIL);
    if (source === null) return problem(413, 'Too large', 'A mail may have 5 MB. Nothing was taken.');
    const { known, ...taken } = await takeMail(opened, source);
    return Response.json({ ...taken, known }, { status: known ? 200 : 201 });
  } catch (error) {
    return asProblem(opened, error);
  }
}

export const GET = onlyBy('POST');
