/**
 * An address within this application that came in a link or form, or the Watch: anybody can make a link, and
 * nobody may be led away by one of ours.
 */
export function ownAddress(address: unknown): string {
  if (typeof address !== 'string' || !address.startsWith('/')) return '/watch';
  try {
    const url = new URL(address, 'http://own.invalid');
    // Read as a browser reads it: // and /\\ lead elsewhere, and so does a tab between them.
    return url.origin === 'http://own.invalid' ? `${url.pathname}${url.search}${url.hash}` : '/watch';
  } catch {
    return '/watch';
  }
}
