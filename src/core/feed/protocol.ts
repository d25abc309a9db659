/** Open standards by which a source sends events by itself; a credential is good for one of them. */
export const PROTOCOLS = ['xapi', 'caliper'] as const;
export type Protocol = (typeof PROTOCOLS)[number];

export const PROTOCOL_WORDS: Record<Protocol, string> = {
  xapi: 'statements of the Experience API',
  caliper: 'Caliper',
};
