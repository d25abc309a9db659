import { lessAt, pressLess, type Less } from '@/server/contact/wishes';
import { asProblem } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { plainPage } from '@/server/request/plain-page';
import { readBody } from '@/server/request/request-body';
import { runtime, type Runtime } from '@/server/runtime';

interface Asked {
  params: Promise<{ token: string }>;
}

/** Bytes that a press takes at most. */
const LARGEST = 10_000;

async function answered(read: (opened: Runtime) => Promise<Response>): Promise<Response> {
  const opened = await runtime();
  try {
    return await read(opened);
  } catch (error) {
    if (!(error instanceof NotFound)) return asProblem(opened, error);
    return plainPage({ title: 'This link is not good', says: ['Answer the mail itself and say what you wish.'] }, 404);
  }
}

function page({ kind, isDone }: Less): Response {
  if (!isDone)
    return plainPage({
      title: 'Write to me less',
      says: [
        kind === 'learner'
          ? 'Once you press, no more mails about your courses are sent to you from here. Whoever looks after you sees that you wished it, and may still call you. Nothing else changes.'
          : 'Once you press, no more mails about the learner are sent to you from here. Nothing else changes.',
      ],
      button: 'No more mails',
    });
  return plainPage({
    title: 'No more mails are sent to you',
    says: [
      kind === 'learner'
        ? 'You can have them again at any time.'
        : 'If that was a mistake, tell whoever looks after the learner.',
    ],
    button: kind === 'learner' ? 'Send me mails again' : undefined,
    hidden: { again: 'yes' },
  });
}

/** What the link would do: opening it alone does nothing. */
export async function GET(_: Request, { params }: Asked): Promise<Response> {
  return answered(async (opened) => page(await lessAt(opened, (await params).token)));
}

/** The press, on the page or by a mail program's own button (RFC 8058). */
export async function POST(request: Request, { params }: Asked): Promise<Response> {
  return answered(async (opened) => {
    const body = await readBody(request.body, LARGEST);
    const again = new URLSearchParams(body?.toString('utf8') ?? '').get('again') === 'yes';
    return page(await pressLess(opened, (await params).token, again));
  });
}
