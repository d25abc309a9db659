/**
 * Sending queued messages: mail over SMTP, text messages over their gateway.
 *
 * A mail is noted *sending* at the moment the server asks for its text, not before:
 * whatever fails earlier (no server, no such recipient) has certainly not sent it and is
 * tried again. Whatever fails after that moment without the server's answer may have been
 * delivered, so it is never sent again by itself: it is *unsure*, and a person decides.
 *
 * Each channel has a lane of its own, and in a lane several messages are on their way at once,
 * so that no slow server or message delays another.
 */
import { setTimeout as pause } from 'node:timers/promises';
import type { Channel } from '@/core/contact/recipient';
import { quietUntil } from '@/core/contact/quiet-hours';
import { HOUR } from '@/core/time/zone';
import {
  dueMessages,
  fromAheadMessages,
  moveMessage,
  moveMessageSafely,
  reschedule,
  type DueMessage,
  type MessageChanges,
} from '@/data/contact/messages';
import type { MessageState } from '@/core/contact/message-state';
import { mayStillReceive } from '@/data/contact/receivers';
import { openMailer, type Mailer } from './mailer';
import { NoReport, letterFor } from '../reports/letter';
import { answersUnder } from './answer-links';
import { makePageLink } from './page-links';
import { recordHandedOver } from './outbox-marker';
import { crewsWhoSee } from '../people/crew';
import type { Runtime } from '../runtime';
import type { Settings } from '../settings';
import { SYSTEM_VIEWER } from '../system-viewer';
import { GatewayRefusal, openGateway, type TextGateway } from './text-gateway';
import { lessLink, wishAgainst } from './wishes';

/** Waits between tries, in ms; the last repeats. */
const DELAYS = [5_000, 15_000, 60_000, 5 * 60_000, 15 * 60_000, HOUR];
/** After this many tries a message is failed, and says why. */
const MOST_TRIES = 40;
/** Messages of one channel that are on their way at once. */
const AT_ONCE = 5;
/** How long to wait before an outcome that could not be stored is stored again, in ms. */
const AFTER_TROUBLE = 15_000;

export function delayAfter(attempts: number): number {
  return DELAYS[Math.min(attempts, DELAYS.length) - 1] ?? DELAYS[0];
}

export interface Carriers {
  mailer: Mailer | null;
  gateway: TextGateway | null;
}

export function openCarriers(settings: Settings): Carriers {
  return { mailer: openMailer(settings.smtpUrl), gateway: openGateway(settings.smsUrl) };
}

/** Channels that there is something to send by. */
export function openChannels({ mailer, gateway }: Carriers): Channel[] {
  return [...(mailer ? ['email' as const] : []), ...(gateway ? ['sms' as const] : [])];
}

/**
 * Sends the messages of some channels whose time has come, several at once. Returns how many were tried.
 * @throws what the database says when it cannot note what is about to be sent: nothing more is tried then
 */
export async function sendDue(
  runtime: Runtime,
  carriers: Carriers,
  channels: readonly Channel[] = openChannels(carriers),
): Promise<number> {
  const { db, clock } = runtime;
  if (channels.length === 0) return 0;
  await letGoOfAhead(runtime);
  const under = new Set<Promise<void>>();
  const tried = new Set<number>();
  let trouble: unknown = null;
  for (;;) {
    const due = await dueMessages(db, { real: clock.real(), now: clock.now(), channels }, AT_ONCE + tried.size);
    const next = due.filter((message) => !tried.has(message.id)).slice(0, AT_ONCE - under.size);
    if (trouble !== null || next.length === 0) {
      if (under.size === 0) break;
    } else {
      for (const message of next) {
        tried.add(message.id);
        const sending = sendOne(runtime, carriers, message)
          .catch((error: unknown) => void (trouble ??= error))
          .finally(() => under.delete(sending));
        under.add(sending);
      }
    }
    // One that is done makes room for the next, however long the others take.
    await Promise.race(under);
  }
  if (trouble !== null) throw trouble;
  return tried.size;
}

/** Sends what comes due in one channel, for ever. After a fault of the database it waits. */
export async function sendForEver(
  runtime: Runtime,
  carriers: Carriers,
  channel: Channel,
  again = 1000,
): Promise<never> {
  for (;;) {
    let wait = again;
    try {
      await sendDue(runtime, carriers, [channel]);
    } catch (error) {
      runtime.log.error({ err: error }, 'outbox failed, will try again');
      wait = AFTER_TROUBLE;
    }
    await pause(wait);
  }
}

/**
 * What was queued while the clock was ahead of today's: it was written now at the latest, so its times are
 * worked out from now.
 */
async function letGoOfAhead({ db, clock, zone }: Runtime): Promise<void> {
  const [now, real] = [clock.now(), clock.real()];
  for (const { id, timezone } of await fromAheadMessages(db, { now, latestTry: real + HOUR })) {
    await reschedule(db, id, { now, next_try_at: real, not_before: quietUntil(now, timezone ?? zone) ?? 0 });
  }
}

async function sendOne(runtime: Runtime, { mailer, gateway }: Carriers, message: DueMessage): Promise<void> {
  if (message.channel === 'sms') await textOne(runtime, gateway!, message);
  else await mailOne(runtime, mailer!, message);
}

/** Stores what became of a message that has been handed over, however long the disk is full. */
async function noteOutcome(
  { db, log }: Runtime,
  message: DueMessage,
  to: MessageState,
  changes: MessageChanges,
): Promise<void> {
  for (;;) {
    try {
      await moveMessageSafely(db, message.id, 'sending', to, changes);
      return;
    } catch (error) {
      log.error(
        { message: message.id, err: error },
        `what became of a message cannot be stored (${to}), will try again`,
      );
      await pause(AFTER_TROUBLE);
    }
  }
}

/**
 * Marks a message as being handed over, and counts it. False when another sender was quicker.
 * @throws what kept it from being counted: then it is noted, and nothing of it may go out
 */
async function noteHandedOver(runtime: Runtime, message: DueMessage, noted: () => void): Promise<boolean> {
  if (!(await moveMessageSafely(runtime.db, message.id, 'queued', 'sending'))) return false;
  noted();
  await recordHandedOver(runtime);
  return true;
}

/** Puts a message back that was noted as being handed over and was not, once that can be stored. */
async function putBack(runtime: Runtime, message: DueMessage): Promise<void> {
  await noteOutcome(runtime, message, 'queued', {});
}

/** A text message that may have been taken is simply tried again: the gateway knows it by its key. */
async function textOne(runtime: Runtime, gateway: TextGateway, message: DueMessage): Promise<void> {
  const { db, clock, log } = runtime;
  const attempts = message.attempts + 1;
  const forbids = await whatForbids(runtime, message);
  if (forbids !== null)
    return void (await moveMessage(db, message.id, 'queued', 'failed', { error: forbids, attempts }));
  let isNoted = false;
  try {
    if (!(await noteHandedOver(runtime, message, () => void (isNoted = true)))) return;
  } catch (error) {
    if (isNoted) await putBack(runtime, message);
    throw error;
  }
  try {
    await gateway(message);
  } catch (error) {
    const { message: says } = error as Error;
    if (error instanceof GatewayRefusal || attempts >= MOST_TRIES) {
      await noteOutcome(runtime, message, 'failed', { error: `The gateway refused it: ${says}`, attempts });
    } else {
      const next_try_at = clock.real() + delayAfter(attempts);
      await noteOutcome(runtime, message, 'queued', { error: `Not sent yet: ${says}`, attempts, next_try_at });
    }
    log.warn({ message: message.id, status: (error as GatewayRefusal).status }, 'text message not sent');
    return;
  }
  await noteOutcome(runtime, message, 'sent', { sent_at: clock.now(), error: null, attempts });
}

/** Another sender was quicker: nothing is sent by this one. */
class TakenByAnother extends Error {}

/**
 * What goes with a message as it stands now: the page of a report as a file, or, where the server found it too large, an
 * address in the text.
 * @throws NoReport where whoever writes has it no more
 */
async function withPage(runtime: Runtime, message: DueMessage) {
  const { report, learner_id, staff_id, learner_name, receiver, sentence } = message;
  const under = await answersUnder(runtime, message.id, message.answers);
  const less = await lessOf(runtime, message);
  const body = [message.body, under, less === null ? '' : `Write to me less: ${less}`].filter(Boolean).join('\n\n');
  if (report === null) return { text: body, attachments: [], less };
  const asked = { report, learnerId: learner_id, staffId: staff_id, name: learner_name, receiver, sentence };
  const letter = await letterFor(runtime, asked);
  if (message.as_link === 0) return { text: body, attachments: [letter], less };
  return { text: `${body}\n\n${await makePageLink(runtime, message.id, letter)}`, attachments: [], less };
}

/** The address under a mail at which its reader is written to less: of a learner, and of a contact of theirs. */
async function lessOf(runtime: Runtime, { receiver, learner_id, contact_id }: DueMessage): Promise<string | null> {
  if (receiver === 'learner') return lessLink(runtime, { kind: 'learner', id: learner_id });
  return contact_id === null ? null : lessLink(runtime, { kind: 'contact', id: contact_id });
}

/** Why a message that is about to go to somebody beside a learner may go no more; null where it may. */
async function whatForbids(runtime: Runtime, message: DueMessage): Promise<string | null> {
  const { learner_id, coordinator_id } = message;
  if (message.receiver === 'learner') return wishAgainst(runtime.db, learner_id, message.channel);
  const mayReceive =
    message.receiver === 'crew'
      ? (await crewsWhoSee(runtime.db, SYSTEM_VIEWER, [learner_id])).some(({ id }) => id === coordinator_id)
      : await mayStillReceive(runtime.db, message);
  if (mayReceive) return null;
  return 'Whoever it was for may receive nothing about this learner any more: it was not sent.';
}

/** Did a mail server refuse it for its size? A full mailbox (X.2.2) is not that. RFC 5321, 4.2.2; RFC 3463, 3.3 and 3.4. */
function isTooLarge(status: number, says: string): boolean {
  return (status === 552 && !/\b5\.2\.2\b/.test(says)) || (status >= 500 && /\b5\.(2\.3|3\.4)\b/.test(says));
}

async function mailOne(runtime: Runtime, mailer: Mailer, message: DueMessage): Promise<void> {
  const { db, clock, log } = runtime;
  const attempts = message.attempts + 1;
  let isNoted = false;
  let begun = false;
  let fault: unknown = null;
  try {
    const forbids = await whatForbids(runtime, message);
    if (forbids !== null)
      return void (await moveMessage(db, message.id, 'queued', 'failed', { error: forbids, attempts }));
    const mail = {
      from: { name: message.from_name, address: message.from_email },
      to: { name: message.to_name, address: message.address },
      subject: message.subject,
      messageId: message.message_id,
      ...(await withPage(runtime, message)),
    };
    await mailer(mail, async () => {
      try {
        if (!(await noteHandedOver(runtime, message, () => void (isNoted = true)))) throw new TakenByAnother();
      } catch (error) {
        fault = error;
        throw error;
      }
      begun = true;
    });
  } catch (error) {
    if (fault instanceof TakenByAnother) return;
    // It could not be noted, so nothing was handed over: nor will anything be, for now.
    if (fault !== null) {
      if (isNoted) await putBack(runtime, message);
      throw fault;
    }
    if (error instanceof NoReport) {
      await moveMessage(db, message.id, 'queued', 'failed', { error: error.message, attempts });
      return;
    }
    const { message: says, status = 0 } = error as Error & { status?: number };
    log.warn({ message: message.id, status }, 'mail not sent');
    const goesAsLink = message.report !== null && message.as_link === 0 && isTooLarge(status, says);
    const [to, changes] = goesAsLink
      ? asLink(runtime, attempts)
      : afterFailure(clock.real(), { attempts, status, says, begun });
    if (begun) await noteOutcome(runtime, message, to, changes);
    else await moveMessage(db, message.id, 'queued', to, changes);
    return;
  }
  await noteOutcome(runtime, message, 'sent', { sent_at: clock.now(), error: null, attempts });
}

/** What becomes of a message whose page a mail server found too large. */
function asLink({ clock, settings }: Runtime, attempts: number): [MessageState, MessageChanges] {
  if (settings.url === null) {
    const error = 'The mail server found the page too large. With LEESHORE_URL set, a link to it would go instead.';
    return ['failed', { error, attempts }];
  }
  const error = 'The mail server found the page too large: a link to it goes instead.';
  return ['queued', { error, attempts, as_link: 1, next_try_at: clock.real() }];
}

interface Failure {
  attempts: number;
  /** The server's status; 0 when it said nothing. */
  status: number;
  says: string;
  /** Was the text begun? */
  begun: boolean;
}

function afterFailure(real: number, { attempts, status, says, begun }: Failure): [MessageState, MessageChanges] {
  if (begun && status === 0) {
    const error = 'The mail server went silent while taking this. It may have arrived.';
    return ['unsure', { error, attempts }];
  }
  if (status >= 500 || attempts >= MOST_TRIES) {
    return ['failed', { error: `The mail server refused it: ${says}`, attempts }];
  }
  return ['queued', { error: `Not sent yet: ${says}`, attempts, next_try_at: real + delayAfter(attempts) }];
}
