/** A mail to a member of staff about their own account: from the application itself. */
import { randomUUID } from 'node:crypto';
import { openMailer, type Mailer } from '../contact/mailer';
import type { Runtime } from '../runtime';
import type { Settings } from '../settings';

export interface AccountMail {
  to: { name: string; address: string };
  subject: string;
  /** Paragraphs. */
  says: readonly string[];
}

/** Can a mail with a link in it be sent? Null where it can, or what is missing, in words. */
export function cannotMail({ smtpUrl, url }: Settings): string | null {
  if (!smtpUrl) return 'no mail server is set (LEESHORE_SMTP_URL)';
  return url ? null : 'nobody has set where Lee Shore is opened in a browser (LEESHORE_URL)';
}

/** Hands the mail to the mail server. @throws MailFault */
export async function mailAccount(
  settings: Settings,
  { to, subject, says }: AccountMail,
  mailer: Mailer | null = openMailer(settings.smtpUrl),
): Promise<void> {
  await mailer?.(
    {
      from: { name: 'Lee Shore', address: to.address },
      to,
      subject,
      text: says.join('\n\n'),
      messageId: `${randomUUID()}@${settings.domain ?? 'lee-shore'}`,
    },
    async () => undefined,
  );
}

/** Tells somebody what became of their account; where no mail can be sent, the log says so. */
export async function tellStaff(
  { settings, log }: Pick<Runtime, 'settings' | 'log'>,
  mail: AccountMail,
): Promise<void> {
  try {
    await mailAccount(settings, mail);
  } catch (error) {
    log.warn({ err: error }, 'the owner of an account could not be told what happened to it');
  }
}
