/**
 * Sending queued messages: mail over SMTP, text messages over their gateway.
 *
 * A mail is marked *sending* at the moment the server asks for its text, not before:
 * whatever fails earlier (no server, no such recipient) has certainly not sent it and is
 * tried again. Whatever fails after that moment without the server's answer may have been
 * delivered, so it is never sent again by itself: it is *unsure*, and a person decides.
 */
import { Readable } from 'node:stream';
import nodemailer, { type Transporter } from 'nodemailer';
import type { Channel } from '@/core/followup/recipient';
import { dueMessages, moveMessage, type DueMessage } from '@/data/messages';
import type { Runtime } from './runtime';
import type { Settings } from './settings';
import { GatewayRefusal, openGateway, type TextGateway } from './text-gateway';

/** Waits between tries, in ms; the last repeats. */
const DELAYS = [5_000, 15_000, 60_000, 5 * 60_000, 15 * 60_000, 60 * 60_000];
/** After this many tries a message is failed, and says why. */
const MOST_TRIES = 40;
const AT_ONCE = 20;

function openMailer(settings: Settings): Transporter | null {
  if (!settings.smtpUrl) return null;
  return nodemailer.createTransport(settings.smtpUrl, {});
}

export function delayAfter(attempts: number): number {
  return DELAYS[Math.min(attempts, DELAYS.length) - 1] ?? DELAYS[0];
}

export interface Carriers {
  mailer: Transporter | null;
  gateway: TextGateway | null;
}

export function openCarriers(settings: Settings): Carriers {
  return { mailer: openMailer(settings), gateway: openGateway(settings.smsUrl) };
}

/** Sends the messages whose time has come, by the carriers there are. Returns how many were tried. */
export async function sendDue(runtime: Runtime, { mailer, gateway }: Carriers): Promise<number> {
  const { db, clock } = runtime;
  const channels: Channel[] = [...(mailer ? ['email' as const] : []), ...(gateway ? ['sms' as const] : [])];
  if (channels.length === 0) return 0;
  const due = await dueMessages(db, { real: clock.real(), now: clock.now(), channels }, AT_ONCE);
  for (const message of due) {
    if (message.channel === 'sms') await textOne(runtime, gateway!, message);
    else await sendOne(runtime, mailer!, message);
  }
  return due.length;
}

/** A text message that may have been taken is simply tried again: the gateway knows it by its key. */
async function textOne({ db, clock, log }: Runtime, gateway: TextGateway, message: DueMessage): Promise<void> {
  const attempts = message.attempts + 1;
  if (!(await moveMessage(db, message.id, 'queued', 'sending'))) return;
  try {
    await gateway(message);
    await moveMessage(db, message.id, 'sending', 'sent', { sent_at: clock.now(), error: null, attempts });
  } catch (error) {
    const { message: says } = error as Error;
    if (error instanceof GatewayRefusal || attempts >= MOST_TRIES) {
      await moveMessage(db, message.id, 'sending', 'failed', { error: `The gateway refused it: ${says}`, attempts });
    } else {
      const next = clock.real() + delayAfter(attempts);
      await moveMessage(db, message.id, 'sending', 'queued', {
        error: `Not sent yet: ${says}`,
        attempts,
        next_try_at: next,
      });
    }
    log.warn({ message: message.id, err: says }, 'text message not sent');
  }
}

async function sendOne({ db, clock, log }: Runtime, mailer: Transporter, message: DueMessage): Promise<void> {
  const envelope = { from: message.from_email, to: [message.address] };
  const source = await compose(message);
  let handedOver = false;
  let taken = true;
  const text = new Readable({
    read() {
      if (handedOver) return;
      handedOver = true;
      // The server waits for the text. Another sender may have been quicker: then nothing is sent.
      moveMessage(db, message.id, 'queued', 'sending').then(
        (mine) => {
          taken = mine;
          if (!mine) return this.destroy(new Error('sent by another'));
          this.push(source);
          this.push(null);
        },
        (error) => this.destroy(error),
      );
    },
  });
  try {
    await mailer.sendMail({ envelope, raw: text });
    await moveMessage(db, message.id, 'sending', 'sent', {
      sent_at: clock.now(),
      error: null,
      attempts: message.attempts + 1,
    });
  } catch (error) {
    if (!taken) return;
    await afterFailure({ db, clock }, message, error as SmtpError, handedOver);
    log.warn({ message: message.id, err: (error as Error).message }, 'message not sent');
  }
}

interface SmtpError extends Error {
  responseCode?: number;
}

async function afterFailure(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  message: DueMessage,
  error: SmtpError,
  handedOver: boolean,
): Promise<void> {
  const attempts = message.attempts + 1;
  const from = handedOver ? 'sending' : 'queued';
  const code = error.responseCode ?? 0;
  if (handedOver && code === 0) {
    const reason = 'The mail server went silent while taking this. It may have arrived.';
    await moveMessage(db, message.id, from, 'unsure', { error: reason, attempts });
  } else if (code >= 500 || attempts >= MOST_TRIES) {
    await moveMessage(db, message.id, from, 'failed', {
      error: `The mail server refused it: ${error.message}`,
      attempts,
    });
  } else {
    const wait = delayAfter(attempts);
    await moveMessage(db, message.id, from, 'queued', {
      error: `Not sent yet: ${error.message}`,
      attempts,
      next_try_at: clock.real() + wait,
    });
  }
}

/** The message as RFC 5322 text. */
async function compose(message: DueMessage): Promise<Buffer> {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  const info = await composer.sendMail({
    from: { name: message.from_name, address: message.from_email },
    to: { name: message.to_name, address: message.address },
    subject: message.subject,
    text: message.body,
    messageId: `<${message.message_id}>`,
  });
  return info.message as Buffer;
}
