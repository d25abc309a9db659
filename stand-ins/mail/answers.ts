/** Mail that goes the other way: what a learner answers, and what a mail server reports. */
import nodemailer from 'nodemailer';
import type { Mail } from './inbox';

/** Where Lee Shore takes mail in, and the token it asks for. */
export interface Inbound {
  url: string;
  token: string;
}

async function compose(
  mail: Parameters<ReturnType<typeof nodemailer.createTransport>['sendMail']>[0],
): Promise<Buffer> {
  const composer = nodemailer.createTransport({ streamTransport: true, buffer: true, newline: 'windows' });
  return (await composer.sendMail(mail)).message as Buffer;
}

/** An answer as RFC 5322 text, quoting what it answers; from elsewhere it refers to nothing. */
export function composeAnswer(mail: Mail, text: string, elsewhere: boolean): Promise<Buffer> {
  const quoted = mail.text
    .split('\n')
    .map((line) => `> ${line}`)
    .join('\n');
  return compose({
    from: elsewhere ? 'somebody@elsewhere.example' : mail.to,
    to: mail.from,
    subject: elsewhere ? 'A question' : `Re: ${mail.subject}`,
    text: elsewhere ? text : `${text}\n\nOn ${mail.at.slice(0, 16)} ${mail.from} wrote:\n${quoted}`,
    ...(elsewhere ? {} : { inReplyTo: mail.messageId, references: mail.messageId }),
  });
}

/** A delivery report (RFC 3464): the mailbox is unknown. */
export function composeBounce(mail: Mail): Promise<Buffer> {
  const status = [
    'Reporting-MTA: dns; mail.learner.example',
    '',
    `Final-Recipient: rfc822; ${mail.to}`,
    'Action: failed',
    'Status: 5.1.1',
    'Diagnostic-Code: smtp; 550 5.1.1 no such mailbox',
    '',
  ].join('\r\n');
  const headers = `Message-ID: ${mail.messageId}\r\nSubject: ${mail.subject}\r\nTo: ${mail.to}\r\n\r\n`;
  const boundary = 'report-of-delivery';
  const part = (type: string, content: string) => `--${boundary}\r\nContent-Type: ${type}\r\n\r\n${content}\r\n`;
  const head = [
    'From: Mail delivery <postmaster@learner.example>',
    `To: ${mail.from.replace(/[\r\n]/g, ' ')}`,
    'Subject: Undelivered mail',
    `Message-ID: <bounce-${mail.id}-${Date.now()}@learner.example>`,
    'Auto-Submitted: auto-replied',
    'MIME-Version: 1.0',
    `Content-Type: multipart/report; report-type=delivery-status; boundary="${boundary}"`,
    '',
    '',
  ].join('\r\n');
  const body =
    part('text/plain; charset=utf-8', `The mail to ${mail.to} could not be delivered.`) +
    part('message/delivery-status', status) +
    part('text/rfc822-headers', headers) +
    `--${boundary}--\r\n`;
  return Promise.resolve(Buffer.from(head + body));
}

/** Hands a mail to Lee Shore; says what came of it. */
export async function deliver({ url, token }: Inbound, source: Buffer): Promise<string> {
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'message/rfc822', authorization: `Bearer ${token}` },
    body: new Uint8Array(source),
  });
  const result = await answer.json().catch(() => ({}));
  if (!answer.ok) return `Lee Shore did not take it: ${answer.status} ${result.detail ?? ''}`;
  return result.matched ? 'It has arrived and is matched to the learner.' : 'It has arrived and matches nobody.';
}
