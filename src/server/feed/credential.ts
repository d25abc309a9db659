/** Whose credential a request of a source carries. */
import { createHash } from 'node:crypto';
import type { Protocol } from '@/core/feed/protocol';
import { sourceOfCredential } from '@/data/feed/sources';
import type { Runtime } from '@/server/runtime';

export function hashSecret(secret: string): string {
  return createHash('sha256').update(secret).digest('hex');
}

/** The source behind a basic credential (key and secret) or a bearer one (the secret alone), good for a protocol; null for none. */
export async function sourceOf({ db }: Pick<Runtime, 'db'>, protocol: Protocol, request: Request) {
  const [kind, value = ''] = (request.headers.get('authorization') ?? '').split(' ', 2);
  if (/^bearer$/i.test(kind)) return sourceOfCredential(db, protocol, hashSecret(value));
  if (!/^basic$/i.test(kind)) return null;
  const text = Buffer.from(value, 'base64').toString();
  const at = text.indexOf(':');
  return at < 0 ? null : sourceOfCredential(db, protocol, hashSecret(text.slice(at + 1)), text.slice(0, at));
}
