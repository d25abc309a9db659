/** The provider of sign-ins as a client of it: found once, and asked again when it does not answer. */
import * as oidc from 'openid-client';
import { MINUTE } from '@/core/time/zone';
import type { Settings } from '../../settings';

/** How long what a provider says of itself is taken as it was, in ms. */
const KNOWN_FOR = 10 * MINUTE;
/** Seconds that its clock may be off, and after which a request of ours is given up. */
export const CLOCK_OFF = 150;
const PATIENCE = 10;

type Provider = NonNullable<Settings['provider']>;

let known: { key: string; at: number; says: Promise<oidc.ServerMetadata> } | null = null;

/**
 * The provider as it says of itself (OpenID Connect Discovery 1.0), to be used for one sign-in: its keys are read anew for each,
 * since it may change them at any moment. Throws where it cannot be asked.
 */
export async function providerOf(provider: Provider): Promise<oidc.Configuration> {
  const key = JSON.stringify(provider);
  const now = performance.now();
  if (known?.key !== key || now - known.at > KNOWN_FOR) {
    const says = discover(provider);
    known = { key, at: now, says };
    // One that failed is asked again by the next.
    says.catch(() => (known = null));
  }
  const { issuer, clientId, clientSecret } = provider;
  const config = new oidc.Configuration(await known.says, clientId, {
    client_secret: clientSecret,
    [oidc.clockTolerance]: CLOCK_OFF,
  });
  config.timeout = PATIENCE;
  oidc.enableNonRepudiationChecks(config);
  if (isOpen(issuer)) oidc.allowInsecureRequests(config);
  return config;
}

/** Without TLS: of this machine alone, as the settings see to. */
const isOpen = (issuer: string) => new URL(issuer).protocol === 'http:';

async function discover({ issuer, clientId }: Provider): Promise<oidc.ServerMetadata> {
  const config = await oidc.discovery(new URL(issuer), clientId, undefined, undefined, {
    execute: isOpen(issuer) ? [oidc.allowInsecureRequests] : [],
    timeout: PATIENCE,
  });
  return config.serverMetadata();
}
