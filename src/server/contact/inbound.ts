/** Mail that comes in: answers of learners, automatic answers, and bounces. */
import { createHash } from 'node:crypto';
import { convert } from 'html-to-text';
import PostalMime, { type Email } from 'postal-mime';
import { writing } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import { moveMessage } from '@/data/contact/messages';
import { addReply, learnerByAddress, messageByExternalId, settleReply, type ReplyKind } from '@/data/contact/replies';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

/** Largest mail taken, in bytes. */
export const LARGEST_MAIL = 5 * 1024 * 1024;
const LONGEST_TEXT = 20_000;

export interface TakenReply {
  kind: ReplyKind;
  /** Was it known already? A mail that is delivered twice counts once. */
  known: boolean;
  /** Whose it is was found out. */
  matched: boolean;
}

/** Takes one RFC 5322 message in, matched to the message it answers. @throws InvalidInput for what is none */
export async function takeMail({ db, clock }: Runtime, source: Buffer): Promise<TakenReply> {
  if (source.length > LARGEST_MAIL) throw new InvalidInput([{ field: 'body', message: 'is larger than 5 MB' }]);
  const mail = await PostalMime.parse(source, { attachmentEncoding: 'utf8' });
  const sender = mail.from?.address?.toLowerCase() ?? '';
  const kind = kindOf(mail);
  if (!sender && kind !== 'bounce')
    throw new InvalidInput([{ field: 'body', message: 'is no mail with a From header' }]);
  const named = kind === 'bounce' ? returnedIds(source) : [...idsIn(mail.references), ...idsIn(mail.inReplyTo)];
  return writing(db, async (trx) => {
    const message = await messageByExternalId(trx, named);
    const byAddress = message || kind === 'bounce' ? null : await learnerByAddress(trx, sender);
    const learner_id = message?.learner_id ?? byAddress?.learner_id ?? null;
    const added = await addReply(trx, {
      learner_id,
      message_id: message?.id ?? byAddress?.message_id ?? null,
      kind,
      external_id: idsIn(mail.messageId)[0] ?? createHash('sha256').update(source).digest('hex'),
      sender,
      subject: (mail.subject ?? '').slice(0, 500),
      body: textOf(mail).trim().slice(0, LONGEST_TEXT),
      received_at: clock.now(),
    });
    if (added !== null && message && kind === 'bounce') {
      const error = `Could not be delivered: ${reasonOf(source)}`;
      for (const state of ['sent', 'unsure'] as const) await moveMessage(trx, message.id, state, 'bounced', { error });
    }
    return { kind, known: added === null, matched: learner_id !== null };
  });
}

/** How deep the markup of an answer is followed, and how many characters of it are read. */
const DEEPEST = 60;
const LONGEST_HTML = 500_000;

/** What was written: as text, or as the text of what came as HTML alone. */
function textOf({ text, html }: Email): string {
  if (text !== undefined) return text;
  if (html === undefined) return '';
  return convert(html, {
    wordwrap: false,
    limits: { maxDepth: DEEPEST, maxInputLength: LONGEST_HTML },
    selectors: [{ selector: 'img', format: 'skip' }],
  });
}

/** Ids in `<…>` of a header, without the brackets. */
function idsIn(header: string | undefined): string[] {
  return [...(header ?? '').matchAll(/<([^<>\s]+)>/g)].map((match) => match[1]);
}

/** A delivery report (RFC 3464), an automatic answer (RFC 3834), or an answer by a person. */
function kindOf(mail: Email): ReplyKind {
  const header = (name: string) => mail.headers.find(({ key }) => key === name)?.value.toLowerCase() ?? '';
  const type = header('content-type');
  const isReport = type.startsWith('multipart/report') && /report-type="?delivery-status/.test(type);
  // A report that delivery is only late, or went well, is nobody's answer either.
  if (isReport) return failed(mail) ? 'bounce' : 'automatic';
  const automatic = header('auto-submitted').trim();
  return automatic === '' || automatic === 'no' ? 'answer' : 'automatic';
}

function failed(mail: Email): boolean {
  const status = mail.attachments.find((part) => part.mimeType === 'message/delivery-status');
  const text = String(status?.content ?? '');
  return text === '' || /^Action:\s*failed/im.test(text);
}

/** Ids of the messages that a report gives back, below its own headers. */
function returnedIds(source: Buffer): string[] {
  const text = source.toString('utf8');
  const below = text.slice(text.search(/\r?\n\r?\n/));
  return [...below.matchAll(/^Message-ID:\s*<([^<>\s]+)>/gim)].map((match) => match[1]);
}

function reasonOf(source: Buffer): string {
  const text = source.toString('utf8');
  const diagnostic = /^Diagnostic-Code:\s*(?:[\w-]+;\s*)?(.+)$/im.exec(text)?.[1];
  const status = /^Status:\s*([\d.]+)/im.exec(text)?.[1];
  return [status, diagnostic?.trim()].filter(Boolean).join(' ').slice(0, 300) || 'no reason was given';
}

/** A lead says whose an unmatched answer is; null for nobody's. @throws NotFound */
export async function assignReply(
  { db, clock }: Runtime,
  viewer: Viewer,
  replyId: number,
  learnerId: number | null,
): Promise<void> {
  requireLead(viewer);
  if (learnerId !== null && (await keepInScope(db, viewer, [learnerId])).length === 0)
    throw new NotFound('No such learner');
  if (!(await settleReply(db, replyId, learnerId, clock.now()))) throw new NotFound('No such answer');
}
