import { checkCertificate } from '@/server/people/certificates';
import { asProblem } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { plainPage } from '@/server/request/plain-page';
import { runtime } from '@/server/runtime';

const NONE = {
  title: 'No such number was given',
  says: [
    'Look at the number once more: twelve signs, in three groups of four. One that was taken back is no more either.',
  ],
};

/** Whether a certificate's number was given, for which course and when: that and nothing else, to anybody. */
export async function GET(_: Request, { params }: { params: Promise<{ number: string }> }): Promise<Response> {
  const opened = await runtime();
  try {
    const { number, course, on } = await checkCertificate(opened, (await params).number);
    return plainPage({
      title: 'This number was given',
      says: [`Number ${number} was given for the course “${course}” on ${on}.`],
    });
  } catch (error) {
    return error instanceof NotFound ? plainPage(NONE, 404) : asProblem(opened, error);
  }
}
