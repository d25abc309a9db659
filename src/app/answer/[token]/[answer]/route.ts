import { offeredAnswer, takeAnswer } from '@/server/contact/answer-links';
import { asProblem } from '@/server/request/api';
import { InvalidInput, NotFound } from '@/server/request/input';
import { plainPage } from '@/server/request/plain-page';
import { readBody } from '@/server/request/request-body';
import { runtime, type Runtime } from '@/server/runtime';

interface Asked {
  params: Promise<{ token: string; answer: string }>;
}

/** Bytes that an answer takes at most. */
const LARGEST = 10_000;

const GONE = {
  title: 'This link is no longer good',
  says: ['Its time is over, or a newer mail has taken its place. Answer the mail itself instead.'],
};

async function answered(read: (opened: Runtime) => Promise<Response>): Promise<Response> {
  const opened = await runtime();
  try {
    return await read(opened);
  } catch (error) {
    return error instanceof NotFound ? plainPage(GONE, 404) : asProblem(opened, error);
  }
}

const THANKS = (says: string) => ({
  title: 'Thank you',
  says: [`Your answer: ${says}`, 'If something has changed, answer the mail itself.'],
});

async function offer(opened: Runtime, token: string, answer: string, fault?: string): Promise<Response> {
  const { label, asks, answered: before } = await offeredAnswer(opened, token, answer);
  if (before !== null) return plainPage(THANKS(before));
  return plainPage(
    {
      title: label,
      says: fault ? [fault] : ['This goes to whoever wrote to you, once you press.'],
      field: asks ? { name: 'said', ...asks } : undefined,
      button: 'Send this answer',
    },
    fault ? 422 : 200,
  );
}

/** What a link offers: opening it alone sends nothing. */
export async function GET(_: Request, { params }: Asked): Promise<Response> {
  const { token, answer } = await params;
  return answered((opened) => offer(opened, token, answer));
}

/** The press. */
export async function POST(request: Request, { params }: Asked): Promise<Response> {
  const { token, answer } = await params;
  return answered(async (opened) => {
    const body = await readBody(request.body, LARGEST);
    if (body === null) return offer(opened, token, answer, 'That was too long. Say it in fewer words.');
    const said = new URLSearchParams(body.toString('utf8')).get('said') ?? '';
    try {
      return plainPage(THANKS(await takeAnswer(opened, token, answer, said)));
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      const { asks } = await offeredAnswer(opened, token, answer);
      const fault = asks?.type === 'date' ? 'Choose a day from today on.' : 'Say in a few words what you need.';
      return offer(opened, token, answer, fault);
    }
  });
}
