/** Signing in by a provider: OpenID Connect Core 1.0, code flow with PKCE (RFC 7636), state and nonce. */
import * as oidc from 'openid-client';
import { meaningOf, personOf } from '@/core/staff/claims';
import { addAudit } from '@/data/audit';
import { writing, rawTransaction, type Db } from '@/data/db';
import { reassignStaffEvents } from '@/data/access/actors';
import { addLogin, claimRules, setClaimedScopes, takeLogin, type ClaimedScope } from '@/data/staff/identities';
import type { StaffAccount } from '@/data/staff/staff';
import { scopeTarget, updateStaff } from '@/data/staff/staff-accounts';
import { InvalidInput } from '../../request/input';
import type { Runtime } from '../../runtime';
import { keepingOneLead } from '../one-lead';
import { openSession, type SignedIn } from '../sessions';
import { hashToken, type SignInFrom } from '../sign-in-tries';
import { CLOCK_OFF, providerOf } from './client';
import { LOGIN_LENGTH, NotLetIn, staffSaidToBe } from './said';

const AGAIN = 'Try once more; if that does not help, tell somebody who leads the programme.';
const AWAY = `The sign-in service does not answer. ${AGAIN}`;

function settingsOf({ settings }: Pick<Runtime, 'settings'>) {
  const { provider, url } = settings;
  if (provider === null || url === null) throw new NotLetIn('Nobody signs in by another service here.');
  return { provider, back: `${url}/sign-in/provider/back`, after: `${url}/sign-in` };
}

/**
 * Where somebody is sent to sign in, and the word by which their browser is known when they come back.
 * @throws NotLetIn where the provider does not answer
 */
export async function goToProvider(runtime: Runtime): Promise<{ to: string; state: string }> {
  const { provider, back } = settingsOf(runtime);
  const config = await providerOf(provider).catch((error: unknown) => {
    runtime.log.warn({ err: error }, 'the provider of sign-ins cannot be asked');
    throw new NotLetIn(AWAY);
  });
  const [state, nonce, verifier] = [oidc.randomState(), oidc.randomNonce(), oidc.randomPKCECodeVerifier()];
  const { db, clock } = runtime;
  const now = clock.now();
  const login = { state_hash: hashToken(state), nonce, verifier, platform_id: null, expires_at: now + LOGIN_LENGTH };
  if (!(await writing(db, (trx) => addLogin(trx, login, now))))
    throw new NotLetIn('Too many try at once. Wait a minute.');
  const to = oidc.buildAuthorizationUrl(config, {
    redirect_uri: back,
    scope: 'openid email profile',
    code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
    code_challenge_method: 'S256',
    state,
    nonce,
  });
  return { to: to.href, state };
}

/**
 * Lets in whoever comes back from the provider.
 *
 * @param query of the address that they came back to
 * @param state the word of their browser
 * @throws NotLetIn
 */
export async function comeFromProvider(
  runtime: Runtime,
  query: URLSearchParams,
  state: string | undefined,
  from: SignInFrom,
): Promise<SignedIn> {
  const { db, clock, zone } = runtime;
  const { provider, back } = settingsOf(runtime);
  const login =
    state !== undefined && state === query.get('state')
      ? await writing(db, (trx) => takeLogin(trx, hashToken(state), clock.now()))
      : null;
  if (!state || login === null || login.platform_id !== null)
    throw new NotLetIn(`That sign-in is over, or was begun elsewhere. ${AGAIN}`);
  const claims = await claimsOf(runtime, provider, new URL(`${back}?${query}`), { state, ...login });
  const letIn = (heedsClaims: boolean) =>
    writing(db, async (trx) => {
      const { staff, isChanged } = await staffOf(runtime, trx, provider.issuer, claims, heedsClaims);
      return { signedIn: await openSession(trx, staff.id, from, clock.now(), 'provider'), isChanged };
    });
  const { signedIn, isChanged } = await letIn(true).catch((error: unknown) => {
    if (!(error instanceof InvalidInput)) throw error;
    // A rule that would leave nobody who leads is not heeded: whoever could mend it has to come in.
    runtime.log.warn('claims that would leave nobody who leads were not heeded');
    return letIn(false);
  });
  if (isChanged) await rawTransaction(db, (raw) => reassignStaffEvents(raw, zone));
  return signedIn;
}

type Claims = Readonly<Record<string, unknown>> & { sub: string };

async function claimsOf(
  { log, clock }: Runtime,
  provider: Parameters<typeof providerOf>[0],
  url: URL,
  { state, nonce, verifier }: { state: string; nonce: string; verifier: string },
): Promise<Claims> {
  try {
    const config = await providerOf(provider);
    const tokens = await oidc.authorizationCodeGrant(config, url, {
      pkceCodeVerifier: verifier,
      expectedState: state,
      expectedNonce: nonce,
      idTokenExpected: true,
    });
    const claims = tokens.claims()!;
    // The time at which it was signed is not looked at by others: one of tomorrow is none that was signed now.
    if (claims.iat > clock.real() / 1000 + CLOCK_OFF) throw new Error('the token was signed later than now');
    // Providers that keep the token small tell of e-mail and name when they are asked.
    if (claims.email !== undefined || !config.serverMetadata().userinfo_endpoint) return claims;
    return { ...(await oidc.fetchUserInfo(config, tokens.access_token, claims.sub)), ...claims };
  } catch (error) {
    log.warn({ err: error }, 'a sign-in by the provider was refused');
    const { name } = error as Error;
    const isRefusal = name === 'AuthorizationResponseError' || name === 'ResponseBodyError';
    throw new NotLetIn(isRefusal ? `The sign-in service did not let you in. ${AGAIN}` : AWAY_OR_WRONG);
  }
}

const AWAY_OR_WRONG = `The sign-in service did not answer, or its answer could not be trusted. ${AGAIN}`;

/** Whose claims they are: known by the provider's own word, or by an e-mail that it vouches for the first time. @throws NotLetIn */
async function staffOf(
  runtime: Runtime,
  trx: Db,
  issuer: string,
  claims: Claims,
  heedsClaims: boolean,
): Promise<{ staff: StaffAccount; isChanged: boolean }> {
  const meaning = meaningOf(claims, await claimRules(trx));
  const says = { issuer, subject: claims.sub, person: personOf(claims) };
  const staff = await staffSaidToBe(runtime, trx, { ...says, role: meaning.role, by: 'the provider' });
  let isChanged = false;
  if (heedsClaims)
    await keepingOneLead(trx, 'role', async () => {
      isChanged = await applyMeaning(runtime, trx, staff, meaning);
    });
  return { staff, isChanged };
}

/** Gives the role and the scopes that claims give now, and takes those that claims gave before. Returns whether anything changed. */
async function applyMeaning(
  { clock }: Runtime,
  trx: Db,
  staff: StaffAccount,
  { role, scopes }: ReturnType<typeof meaningOf>,
): Promise<boolean> {
  const claimed: ClaimedScope[] = [];
  for (const { kind, target } of scopes) {
    const targetId = kind === 'all' ? null : await scopeTarget(trx, kind, target);
    // What a rule names and is not there any more gives nothing.
    if (kind === 'all' || targetId !== null) claimed.push({ kind, targetId });
  }
  const newRole = role ?? staff.role;
  const isScoped = await setClaimedScopes(trx, staff.id, claimed);
  if (newRole !== staff.role) await updateStaff(trx, staff.id, { role: newRole });
  if (!isScoped && newRole === staff.role) return false;
  await addAudit(trx, {
    at: clock.now(),
    staff_id: staff.id,
    what: 'got role and scopes by the provider',
    subject: staff.external_id,
    changes: newRole === staff.role ? {} : { role: [staff.role, newRole] },
  });
  return true;
}

/** Where a browser goes to sign out at the provider too; null where it offers no such place. */
export async function leaveProvider(runtime: Runtime): Promise<string | null> {
  if (runtime.settings.provider === null) return null;
  const { provider, after } = settingsOf(runtime);
  const config = await providerOf(provider).catch(() => null);
  if (!config?.serverMetadata().end_session_endpoint) return null;
  return oidc.buildEndSessionUrl(config, { post_logout_redirect_uri: after }).href;
}
