/** Who asks with a bearer token (RFC 6750): the operator's, or one of somebody's own. */
import { createHash, timingSafeEqual } from 'node:crypto';
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';
import { TOKEN_PREFIX, bearerOfToken } from './own-tokens';

/** What is done with the token of the settings is on record as the operator's. */
const OPERATOR = 'the installation’s token';

/** Whoever asks with a token. */
export interface Bearer {
  viewer: Viewer;
  /** May more than reading be asked? */
  mayWrite: boolean;
  /** What is done is on record as done by this. */
  via: string;
}

/** Who asks with a token: the operator's, a lead without an account, or one of somebody's own. Null for none that is good. */
export async function bearerOf(runtime: Runtime, token: string): Promise<Bearer | null> {
  const { apiToken } = runtime.settings;
  if (apiToken && isSame(token, apiToken))
    return { viewer: { ...SYSTEM_VIEWER, name: 'API' }, mayWrite: true, via: OPERATOR };
  if (!token.startsWith(TOKEN_PREFIX)) return null;
  const own = await bearerOfToken(runtime, token);
  return own && { viewer: own.viewer, mayWrite: own.mayWrite, via: `the token “${own.token}”` };
}

/** May this token bring in mail? The API's may, and the one that is good for nothing else. */
export function mayBringMail({ settings }: Runtime, token: string): boolean {
  return [settings.inboundToken, settings.apiToken].some((right) => right !== null && isSame(token, right));
}

/** Compared in the same time, however much of it is right. */
function isSame(a: string, b: string): boolean {
  const [given, right] = [a, b].map((text) => createHash('sha256').update(text).digest());
  return timingSafeEqual(given, right);
}
