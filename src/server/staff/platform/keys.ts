/** Keys: our own, by which a platform knows that it is we who ask, and a platform's, by which we know that it is they who send. */
import { createHash, createPublicKey, generateKeyPairSync, randomUUID } from 'node:crypto';
import { SignJWT, createLocalJWKSet, errors, importJWK, jwtVerify, type JSONWebKeySet, type JWK } from 'jose';
import { MINUTE } from '@/core/time/zone';
import { ownSecret } from '@/data/settings';
import type { Db } from '@/data/db';
import type { Platform } from '@/data/staff/platforms';
import type { Runtime } from '../../runtime';
import { askJson } from './ask';

const ALGORITHM = 'RS256';
/** What a platform may sign with: none of these is made with a secret that both know. */
const ALGORITHMS = ['RS256', 'RS384', 'RS512', 'PS256', 'ES256', 'ES384'];
/** Seconds that a platform's clock may be off, and how old a launch may be. */
const CLOCK_OFF = 150;
const OLDEST = '10 minutes';
/** How long keys that a platform has told are taken for its, in ms. */
const KNOWN_FOR = 10 * MINUTE;

/** Our own key, made when it is first asked for. */
async function ownKey(db: Db): Promise<JWK> {
  const made = await ownSecret(db, 'platform_key', () => {
    const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
    return JSON.stringify(privateKey.export({ format: 'jwk' }));
  });
  const key: JWK = JSON.parse(made);
  return { ...key, kid: createHash('sha256').update(key.n!).digest('base64url').slice(0, 16), alg: ALGORITHM };
}

/** Our public key, as a set that platforms read. */
export async function ownKeySet({ db }: Pick<Runtime, 'db'>): Promise<JSONWebKeySet> {
  const { kid, ...key } = await ownKey(db);
  const open = createPublicKey({ key: key as never, format: 'jwk' }).export({ format: 'jwk' }) as JWK;
  return { keys: [{ ...open, kid, alg: ALGORITHM, use: 'sig' }] };
}

/** Who we are, signed, for one call of a platform (RFC 7523). */
export async function ownAssertion({ db, clock }: Pick<Runtime, 'db' | 'clock'>, platform: Platform): Promise<string> {
  const key = await ownKey(db);
  const now = Math.floor(clock.real() / 1000);
  return new SignJWT({ jti: randomUUID() })
    .setProtectedHeader({ alg: ALGORITHM, kid: key.kid, typ: 'JWT' })
    .setIssuer(platform.client_id)
    .setSubject(platform.client_id)
    .setAudience(platform.token_url)
    .setIssuedAt(now)
    .setExpirationTime(now + 60)
    .sign(await importJWK(key, ALGORITHM));
}

const told = new Map<string, { at: number; keys: Promise<JSONWebKeySet> }>();

async function keysOf({ settings }: Pick<Runtime, 'settings'>, url: string, anew: boolean): Promise<JSONWebKeySet> {
  const known = told.get(url);
  if (known && !anew && performance.now() - known.at < KNOWN_FOR) return known.keys;
  const keys = askJson(settings, url).then(({ json }) => json as JSONWebKeySet);
  told.set(url, { at: performance.now(), keys });
  // What failed is asked again by the next.
  keys.catch(() => told.delete(url));
  return keys;
}

/**
 * The claims of a token that a platform has signed for us, now. A key that is not known yet has its keys read anew.
 * @throws NotAnswered; an error of the library for a token that is not to be believed
 */
export async function claimsBy(
  runtime: Pick<Runtime, 'settings' | 'clock'>,
  platform: Platform,
  token: string,
): Promise<Readonly<Record<string, unknown>> & { sub: string }> {
  const check = async (anew: boolean) => {
    const keys = createLocalJWKSet(await keysOf(runtime, platform.keys_url, anew));
    const { payload } = await jwtVerify(token, keys, {
      issuer: platform.issuer,
      audience: platform.client_id,
      algorithms: ALGORITHMS,
      clockTolerance: CLOCK_OFF,
      maxTokenAge: OLDEST,
      requiredClaims: ['sub', 'exp', 'nonce'],
      currentDate: new Date(runtime.clock.real()),
    });
    return payload;
  };
  const payload = await check(false).catch((error: unknown) => {
    if (error instanceof errors.JWKSNoMatchingKey) return check(true);
    throw error;
  });
  if (typeof payload.sub !== 'string' || payload.sub === '') throw new Error('the token names nobody');
  // One for several audiences says for which of them it was made (OpenID Connect Core 1.0, 3.1.3.7).
  const isShared = Array.isArray(payload.aud) && payload.aud.length > 1;
  if ((isShared || payload.azp !== undefined) && payload.azp !== platform.client_id)
    throw new Error('the token was made for another program');
  return { ...payload, sub: payload.sub };
}
