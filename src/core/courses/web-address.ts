/** An address that may be a link: of the web alone. Anything else, such as `javascript:`, leads nowhere. */
export function webAddress(address: string | null): string | null {
  return address !== null && /^https?:\/\//i.test(address.trim()) ? address.trim() : null;
}
