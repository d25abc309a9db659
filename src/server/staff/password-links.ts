/** Coming in by a link that works once: an invitation by a lead, or for somebody who has forgotten their password. */
import { randomBytes } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { hash } from '@node-rs/argon2';
import { IsEmail } from 'class-validator';
import { fullName } from '@/core/people/name';
import { HOUR, MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import {
  addForgotten,
  addLink,
  dueLinks,
  endLinksOf,
  lastLinkOf,
  linkByToken,
  noteLink,
  takeForgotten,
  takeLink,
  spendLink,
  type DueLink,
  type LinkKind,
} from '@/data/staff/password-links';
import { endSessionsOf, setPassword, staffByEmail, staffById, type StaffAccount } from '@/data/staff/staff';
import { openMailer, type Mailer } from '../contact/mailer';
import { delayAfter } from '../contact/outbox';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { countWhole, hashToken } from './sign-in-tries';
import { mayEnterHere } from './provider/rules';
import { NewPasswordInput } from './new-password';
import { cannotMail, mailAccount, tellStaff } from './tell-staff';

/** How long a link is good from when its mail was handed over, in ms. */
const GOOD_FOR = 72 * HOUR;
/** Who has forgotten it again within so many ms gets no second mail. */
const ASKED_LATELY = 5 * MINUTE;
const MOST_TRIES = 40;
/** While a mail is being handed over nobody else tries, in ms. */
const BEING_SENT = 10 * MINUTE;
/** Mails handed over in one go. */
const AT_ONCE = 50;

const named = (staff: Pick<StaffAccount, 'given_name' | 'family_name' | 'external_id'>) =>
  `${fullName(staff)} (${staff.external_id})`;

/**
 * Invites somebody on the staff by mail to set a password of their own; an earlier invitation is good no more.
 * @throws InvalidInput where no mail can be sent or the account has ended, NotFound
 */
export async function inviteStaff({ db, clock, settings }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  const missing = cannotMail(settings);
  if (missing !== null) throw new InvalidInput([{ field: 'invitation', message: `cannot be sent: ${missing}` }]);
  await writing(db, async (trx) => {
    const staff = await staffById(trx, id);
    if (!staff) throw new NotFound('No such member of staff');
    if (staff.ended_at !== null) throw new InvalidInput([{ field: 'account', message: 'has ended' }]);
    if (!staff.email) throw new InvalidInput([{ field: 'email', message: 'is missing' }]);
    const at = clock.now();
    await addLink(trx, { staff_id: id, kind: 'invitation', asked_at: at, asked_by: viewer.staffId || null });
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'invited a member of staff', subject: named(staff) });
  });
}

/** Takes an invitation back that has not been used: its link is good no more. @throws NotFound */
export async function takeBackInvitation({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const staff = await staffById(trx, id);
    const at = clock.now();
    if (!staff || (await endLinksOf(trx, id, at)) === 0) throw new NotFound('No such invitation');
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'took back an invitation', subject: named(staff) });
  });
}

class ForgottenInput {
  @IsEmail({}, { message: 'is not an e-mail address' }) email!: string;
}

/**
 * Notes that somebody has forgotten their password. It is the same work whether or not there is such an account, so that nobody
 * learns from the answer, or from how long it took, who has one. @throws InvalidInput, SignInRefused
 */
export async function askForgotten(runtime: Runtime, values: Values): Promise<void> {
  const { email } = readInput(ForgottenInput, values);
  const { db, clock } = runtime;
  await writing(db, async (trx) => {
    await countWhole(trx, 'forgotten', clock.real());
    await addForgotten(trx, email, clock.now());
  });
}

/** Makes links for those who have forgotten theirs and have an account with a password; of the rest nothing is kept. */
async function answerForgotten({ db, clock }: Runtime): Promise<void> {
  await writing(db, async (trx) => {
    for (const email of await takeForgotten(trx)) {
      const staff = await staffByEmail(trx, email);
      if (!staff?.password_hash || staff.ended_at !== null || !(await mayEnterHere(trx, staff.id))) continue;
      const at = clock.now();
      const last = await lastLinkOf(trx, staff.id, 'forgotten');
      if (last !== null && last <= at && at - last < ASKED_LATELY) continue;
      await addLink(trx, { staff_id: staff.id, kind: 'forgotten', asked_at: at, asked_by: null });
    }
  });
}

/** Hands over the mails of links that are due. Returns how many were tried. */
export async function sendLinks(runtime: Runtime, mailer: Mailer): Promise<number> {
  const { db, clock } = runtime;
  if (await db('forgotten_ask').first('id')) await answerForgotten(runtime);
  const due = await dueLinks(db, clock.real(), AT_ONCE);
  for (const link of due) await sendOne(runtime, mailer, link);
  return due.length;
}

async function sendOne({ db, clock, settings, log }: Runtime, mailer: Mailer, link: DueLink): Promise<void> {
  const token = randomBytes(32).toString('base64url');
  const expires_at = clock.now() + GOOD_FOR;
  const next = { token_hash: hashToken(token), expires_at, next_try_at: clock.real() + BEING_SENT };
  if (!(await takeLink(db, link, next))) return;
  try {
    await mailAccount(settings, mailOf(link, `${settings.url}/sign-in/password/${token}`), mailer);
  } catch (error) {
    const { message: says, status = 0 } = error as Error & { status?: number };
    log.warn({ link: link.id, status }, 'a link to set a password was not sent');
    const isOver = status >= 500 || link.tries + 1 >= MOST_TRIES;
    await noteLink(db, link.id, {
      error: isOver ? `The mail server refused it: ${says}` : `Not sent yet: ${says}`,
      ...(isOver ? { ended_at: clock.now() } : { next_try_at: clock.real() + delayAfter(link.tries + 1) }),
    });
    return;
  }
  await noteLink(db, link.id, { sent_at: clock.now(), error: null });
}

function mailOf({ kind, email, by_name, ...person }: DueLink, url: string) {
  const to = { name: fullName(person), address: email };
  const last = 'The link works once, and for 72 hours. Nobody at Lee Shore ever asks you for your password.';
  if (kind === 'invitation') {
    return {
      to,
      subject: 'Come in to Lee Shore',
      says: [
        `${by_name ?? 'Somebody who leads the programme'} invites you to Lee Shore, which shows who is drifting away, why, and what brought them back.`,
        `Choose a password of your own, and sign in with it and this e-mail address:\n${url}`,
        last,
      ],
    };
  }
  return {
    to,
    subject: 'A new password for Lee Shore',
    says: [
      'Somebody, you we hope, says that you have forgotten your password.',
      `Choose a new one here:\n${url}`,
      `${last} If it was not you, do nothing: your password stays as it is.`,
    ],
  };
}

/** Sends links as they come due, for ever. */
export async function sendLinksForEver(runtime: Runtime, again = 1000): Promise<never> {
  const mailer = openMailer(runtime.settings.smtpUrl);
  for (;;) {
    let wait = again;
    try {
      if (mailer && cannotMail(runtime.settings) === null) await sendLinks(runtime, mailer);
    } catch (error) {
      runtime.log.error({ err: error }, 'links to set a password could not be sent, will try again');
      wait = 15 * again;
    }
    await pause(wait);
  }
}

/** Whose link it is, and what for. @throws NotFound for one that is used, ended, too old or none */
export async function openLink(
  { db, clock }: Runtime,
  token: string,
): Promise<{ kind: LinkKind; name: string; email: string }> {
  const link = await requireLink(db, token, clock.now());
  return { kind: link.kind, name: fullName(link), email: link.email };
}

async function requireLink(db: Db, token: string, now: number) {
  const link = await linkByToken(db, hashToken(String(token)), now);
  if (!link) throw new NotFound('No such link');
  return link;
}

/**
 * Sets a password by a link, which is used up by that; whatever was signed in ends, and its owner is told.
 * @throws InvalidInput, NotFound where the link is good no more
 */
export async function setPasswordByLink(runtime: Runtime, token: string, values: Values): Promise<void> {
  const { db, clock } = runtime;
  const { password } = readInput(NewPasswordInput, values);
  // Hashing takes its time by design: nobody without a link may ask for it.
  await requireLink(db, token, clock.now());
  const password_hash = await hash(password);
  const { email, ...person } = await writing(db, async (trx) => {
    const at = clock.now();
    const link = await requireLink(trx, token, at);
    if (!(await spendLink(trx, link.id, at))) throw new NotFound('No such link');
    const staff = (await staffById(trx, link.staff_id))!;
    await setPassword(trx, staff.id, password_hash, at);
    await endSessionsOf(trx, staff.id);
    const what = link.kind === 'invitation' ? 'came in by an invitation' : 'set a new password by a link';
    await addAudit(trx, { at, staff_id: staff.id, what, subject: named(staff) });
    return link;
  });
  void tellStaff(runtime, {
    to: { name: fullName(person), address: email },
    subject: 'Your password for Lee Shore was set',
    says: [
      'A password was set for your account by the link that was mailed to you. Everything that was signed in with the old one has ended.',
      'If that was not you, tell somebody who leads the programme: they can end your account at once.',
    ],
  });
}
