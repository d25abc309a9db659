/** Coming in from a course of a platform: LTI Core 1.3, by the OpenID Connect of 1EdTech's Security Framework 1.0. */
import { randomBytes, timingSafeEqual } from 'node:crypto';
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { personOf } from '@/core/staff/claims';
import { launchOf, type Launch } from '@/core/staff/platform-claims';
import { addAudit } from '@/data/audit';
import { rawTransaction, writing, type Db } from '@/data/db';
import { reassignStaffEvents } from '@/data/access/actors';
import { addLogin, identityOf, takeLogin } from '@/data/staff/identities';
import {
  dropLaunchedScopes,
  giveLaunchedScope,
  noteContext,
  platformById,
  platformsOf,
  type LaunchedCourse,
  type Platform,
} from '@/data/staff/platforms';
import type { StaffAccount } from '@/data/staff/staff';
import { readInput, type Values } from '../../request/input';
import type { Runtime } from '../../runtime';
import { LOGIN_LENGTH, NotLetIn, staffSaidToBe } from '../provider/said';
import { openSession, type SignedIn } from '../sessions';
import { hashToken, type SignInFrom } from '../sign-in-tries';
import { NotAnswered } from './ask';
import { claimsBy } from './keys';

const long = { message: 'is longer than 4,000 characters' };
const missing = { message: 'is missing' };

class LoginInput {
  @IsNotEmpty(missing) @MaxLength(4000, long) iss!: string;
  @IsNotEmpty(missing) @MaxLength(4000, long) login_hint!: string;
  @IsNotEmpty(missing) @MaxLength(4000, long) target_link_uri!: string;
  @IsOptional() @MaxLength(4000, long) lti_message_hint?: string;
  @IsOptional() @MaxLength(4000, long) client_id?: string;
  @IsOptional() @MaxLength(4000, long) lti_deployment_id?: string;
}

/**
 * The first half: a platform says that somebody wants to come. Whoever they are is asked of the platform itself, at the address that
 * a lead has set for it.
 *
 * @returns where they are sent, and the word by which their browser is known when they come back
 * @throws NotLetIn for a platform that is not known; InvalidInput
 */
export async function beginLaunch(runtime: Runtime, values: Values): Promise<{ to: string; state: string }> {
  const { db, clock, settings } = runtime;
  const { iss, login_hint, client_id, lti_message_hint } = readInput(LoginInput, values);
  const known = await platformsOf(db, iss);
  const asked = client_id === undefined ? known : known.filter((one) => one.client_id === client_id);
  if (asked.length !== 1 || settings.url === null)
    throw new NotLetIn('That course platform is not known here. Somebody who leads the programme can add it.');
  const [platform] = asked;
  const [state, nonce] = [randomBytes(32).toString('base64url'), randomBytes(32).toString('base64url')];
  const now = clock.now();
  const login = { state_hash: hashToken(state), nonce, verifier: '', platform_id: platform.id };
  if (!(await writing(db, (trx) => addLogin(trx, { ...login, expires_at: now + LOGIN_LENGTH }, now))))
    throw new NotLetIn('Too many try at once. Wait a minute.');
  const to = new URL(platform.login_url);
  const asks = {
    scope: 'openid',
    response_type: 'id_token',
    response_mode: 'form_post',
    prompt: 'none',
    client_id: platform.client_id,
    redirect_uri: `${settings.url}/lti/launch`,
    login_hint,
    state,
    nonce,
    ...(lti_message_hint === undefined ? {} : { lti_message_hint }),
  };
  for (const [name, value] of Object.entries(asks)) to.searchParams.set(name, value);
  return { to: to.href, state };
}

/** What came of a launch. */
export interface Launched {
  /** Null for somebody who leads: they sign in here themselves, a platform's word is not enough. */
  signedIn: SignedIn | null;
  /** The code of the course they came from; null where it is none that is known here. */
  course: string | null;
  /** What the platform calls it; null for none. */
  title: string | null;
}

const AGAIN = 'Open it in your course once more, in a window of its own.';

/**
 * The second half: the platform sends somebody with a token that it has signed.
 *
 * @param state the word of their browser
 * @throws NotLetIn
 */
export async function takeLaunch(
  runtime: Runtime,
  sent: { id_token?: string; state?: string; error?: string },
  state: string | undefined,
  from: SignInFrom,
): Promise<Launched> {
  const { db, clock, zone } = runtime;
  const login =
    state !== undefined && state === sent.state
      ? await writing(db, (trx) => takeLogin(trx, hashToken(state), clock.now()))
      : null;
  const platform = login?.platform_id ? await platformById(db, login.platform_id) : null;
  if (login === null || platform === null) throw new NotLetIn(`That launch is over, or was begun elsewhere. ${AGAIN}`);
  if (sent.error !== undefined || !sent.id_token) throw new NotLetIn(`${platform.name} did not let you in. ${AGAIN}`);
  const claims = await trusted(runtime, platform, sent.id_token, login.nonce);
  const launch = launchOf(claims);
  if (typeof launch === 'string') throw new NotLetIn(`What ${platform.name} sends ${launch}.`);
  if (!platform.deployments.split(' ').includes(launch.deployment))
    throw new NotLetIn(
      `This place of ${platform.name} is not known here (deployment ${launch.deployment.slice(0, 100)}). Somebody who leads the programme can add it.`,
    );
  // A platform that vouches for nobody's address is believed where it says that it has looked (which is no claim of LTI, and sent).
  const vouched = platform.vouches_for_email === 1 ? { ...claims, email_verified: true } : claims;
  const { launched, isChanged } = await writing(db, (trx) => letIn(runtime, trx, platform, launch, vouched, from));
  if (launched === null)
    throw new NotLetIn('Lee Shore is for those who teach and mentor: your course is in its own place.');
  if (isChanged) await rawTransaction(db, (raw) => reassignStaffEvents(raw, zone));
  return launched;
}

async function trusted(runtime: Runtime, platform: Platform, token: string, nonce: string) {
  try {
    const claims = await claimsBy(runtime, platform, token);
    const said = typeof claims.nonce === 'string' ? claims.nonce : '';
    if (!timingSafeEqual(Buffer.from(hashToken(said)), Buffer.from(hashToken(nonce))))
      throw new Error('the token is of another launch');
    return claims;
  } catch (error) {
    runtime.log.warn({ err: error, platform: platform.name }, 'a launch was refused');
    throw new NotLetIn(
      error instanceof NotAnswered
        ? `${platform.name} ${error.message}, so what it sends cannot be checked. ${AGAIN}`
        : `What ${platform.name} sends could not be trusted. ${AGAIN}`,
    );
  }
}

/** Lets somebody in, with what their part in the course gives; `launched` is null for a learner, whose own scope there goes. */
async function letIn(
  runtime: Runtime,
  trx: Db,
  platform: Platform,
  { role, context }: Launch,
  claims: Readonly<Record<string, unknown>> & { sub: string },
  from: SignInFrom,
): Promise<{ launched: Launched | null; isChanged: boolean }> {
  const at = runtime.clock.now();
  const issuer = issuerOf(platform.id);
  const course = context === null ? null : await noteContext(trx, platform.id, context, at);
  if (role === 'learner') {
    const isChanged = course !== null && (await endTeaching(runtime, trx, platform, claims.sub, course));
    return { launched: null, isChanged };
  }
  const says = { issuer, subject: claims.sub, person: personOf(claims), role, by: 'a platform' as const };
  const staff = await staffSaidToBe(runtime, trx, says);
  const isChanged = course !== null && role !== null && (await teach(runtime, trx, staff, course, platform));
  // A platform's administrator can send anybody's name: whoever leads shows here who they are.
  const signedIn = staff.role === 'lead' ? null : await openSession(trx, staff.id, from, at, 'platform');
  return { launched: { signedIn, course: course?.code ?? null, title: context?.title ?? null }, isChanged };
}

/** By which word identities of a platform are kept: its own address may be that of a provider too, with other words for people. */
export const issuerOf = (platformId: number) => `platform:${platformId}`;

/** Gives whoever teaches a course there the course here. Returns whether they had not got it. */
async function teach(
  { clock }: Runtime,
  trx: Db,
  staff: StaffAccount,
  course: LaunchedCourse,
  { name }: Platform,
): Promise<boolean> {
  // Leads see everybody, and a partner's contact sees the partner's people alone, whatever a platform says.
  if (staff.role !== 'instructor' && staff.role !== 'mentor') return false;
  if (!(await giveLaunchedScope(trx, staff.id, course))) return false;
  const subject = `${staff.external_id}: ${course.code}, ${name}`;
  await addAudit(trx, { at: clock.now(), staff_id: staff.id, what: 'got a scope by a platform', subject });
  return true;
}

/** Takes from whoever learns there what they had for teaching there. Returns whether they had anything. */
async function endTeaching(
  { clock }: Runtime,
  trx: Db,
  { id, name }: Platform,
  subject: string,
  course: LaunchedCourse,
): Promise<boolean> {
  const known = await identityOf(trx, issuerOf(id), subject);
  if (!known || (await dropLaunchedScopes(trx, course.platformCourseId, known.staff_id)) === 0) return false;
  const what = 'lost a scope by a platform';
  await addAudit(trx, { at: clock.now(), staff_id: known.staff_id, what, subject: `${course.code}, ${name}` });
  return true;
}
