import { buffer } from 'node:stream/consumers';
import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';

export interface Mail {
  id: number;
  messageId: string;
  from: string;
  to: string;
  subject: string;
  text: string;
  /** What stands above the text, by name in small letters. */
  headers: Readonly<Record<string, string>>;
  /** Files that came with it, and how large. */
  attachments: { name: string; bytes: number }[];
  at: string;
}

export interface Inbox {
  mails: Mail[];
  close(): Promise<void>;
}

/**
 * Opens an SMTP server on this machine that keeps every mail it is sent.
 * @param largest bytes of a mail that it takes, as it says beforehand (RFC 1870); any where it is left out
 */
export async function openInbox(port: number, largest?: number): Promise<Inbox> {
  const mails: Mail[] = [];
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: largest,
    onData(stream, session, callback) {
      buffer(stream)
        .then((source) => PostalMime.parse(source))
        .then((mail) => {
          mails.push({
            id: mails.length + 1,
            messageId: mail.messageId ?? '',
            from: mail.from?.name ? `"${mail.from.name}" <${mail.from.address}>` : (mail.from?.address ?? ''),
            to: session.envelope.rcptTo.map((one) => one.address).join(', '),
            subject: mail.subject ?? '',
            text: mail.text ?? '',
            headers: Object.fromEntries(mail.headers.map(({ key, value }) => [key, value])),
            attachments: mail.attachments.map(({ filename, content }) => ({
              name: filename ?? '',
              bytes: typeof content === 'string' ? content.length : content.byteLength,
            })),
            at: new Date().toISOString(),
          });
          callback();
        }, callback);
    },
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return { mails, close: () => new Promise((resolve) => server.close(() => resolve())) };
}
