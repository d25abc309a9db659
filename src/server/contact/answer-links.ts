/**
 * Answers by a press: a mail offers up to four, each a link to a page without sign-in and without script, good for 14 days and one
 * answer. What counts is the press on that page, since mail servers open every address by themselves. The page names nobody:
 * whoever was forwarded the mail learns nothing, and the answer says by which way it came.
 */
import { randomBytes } from 'node:crypto';
import { linksUnder, readTaps, sayTap, TAPS, type Tap } from '@/core/contact/tap';
import { sayDay } from '@/core/time/words';
import { DAY, dayFromDate, dayOf } from '@/core/time/zone';
import {
  findAnswerLink,
  moveFollowUpsOf,
  putAnswerLink,
  useAnswerLink,
  type AnswerLink,
} from '@/data/contact/answer-links';
import { addReply } from '@/data/contact/replies';
import { writing } from '@/data/db';
import { InvalidInput, NotFound } from '../request/input';
import { linkHash } from '../request/link-hash';
import type { Runtime } from '../runtime';

/** Days for which an address is good. */
const GOOD_DAYS = 14;
/** Days ahead that somebody may say they are back by. */
const FARTHEST = 366;
const LONGEST = 500;

/** What stands under a mail that offers answers; nothing where it offers none or there is no address to send people to. */
export async function answersUnder(
  { db, clock, settings, zone }: Runtime,
  messageId: number,
  answers: string,
): Promise<string> {
  const taps = readTaps(answers);
  if (taps.length === 0 || settings.url === null) return '';
  const token = randomBytes(24).toString('base64url');
  const until = clock.now() + GOOD_DAYS * DAY;
  const isMade = await putAnswerLink(db, {
    token_hash: linkHash(token),
    message_id: messageId,
    answers: taps.join(','),
    until,
  });
  return isMade ? linksUnder(taps, `${settings.url}/answer/${token}`, sayDay(dayOf(until, zone))) : '';
}

export interface OfferedAnswer {
  label: string;
  asks: (typeof TAPS)[Tap]['asks'];
  /** What was answered already by another press, in words; null where nothing was. */
  answered: string | null;
}

async function open({ db, clock }: Runtime, token: string, answer: string): Promise<{ link: AnswerLink; tap: Tap }> {
  const link = await findAnswerLink(db, linkHash(token), clock.now());
  const tap = link && readTaps(link.answers).find((one) => one === answer);
  if (!link || !tap) throw new NotFound('No such answer');
  return { link, tap };
}

/** What an address offers. @throws NotFound where it is over, or was never made */
export async function offeredAnswer(runtime: Runtime, token: string, answer: string): Promise<OfferedAnswer> {
  const { link, tap } = await open(runtime, token, answer);
  return { label: TAPS[tap].label, asks: TAPS[tap].asks, answered: link.chosen };
}

/**
 * Takes an answer into the conversation, and moves the follow-up that was made with the message: to the day after they said they
 * are back, else to today. Nobody is withdrawn by it. Twice the same changes nothing.
 * @returns what stands as the answer, in words
 * @throws InvalidInput for a day that is none or past, or no words; NotFound as `offeredAnswer`
 */
export async function takeAnswer(runtime: Runtime, token: string, answer: string, said: string): Promise<string> {
  const { db, clock, zone } = runtime;
  const { link, tap } = await open(runtime, token, answer);
  if (link.chosen !== null) return link.chosen;
  const now = clock.now();
  const today = dayOf(now, zone);
  const { words, dueDay } = readSaid(tap, said, today);
  const says = sayTap(tap, words);
  return writing(db, async (trx) => {
    if (!(await useAnswerLink(trx, link.id, says, now)))
      return (await findAnswerLink(trx, linkHash(token), now))?.chosen ?? says;
    await addReply(trx, {
      learner_id: link.learner_id,
      message_id: link.message_id,
      kind: 'answer',
      external_id: `pressed-${link.id}`,
      sender: 'a link in the mail',
      subject: TAPS[tap].label,
      body: tap === 'left' ? `${says}\n\nNothing was changed by this: their enrolment is as it was.` : says,
      received_at: now,
    });
    await moveFollowUpsOf(trx, link, dueDay);
    return says;
  });
}

function readSaid(tap: Tap, said: string, today: number): { words: string; dueDay: number } {
  const words = said.trim().slice(0, LONGEST);
  if (tap === 'help' && words === '') throw new InvalidInput([{ field: 'said', message: 'is missing' }]);
  if (tap !== 'back') return { words, dueDay: today };
  const day = dayFromDate(words);
  if (day === null || day < today || day > today + FARTHEST)
    throw new InvalidInput([{ field: 'said', message: 'is no day from today on' }]);
  return { words: sayDay(day, today), dueDay: day + 1 };
}
