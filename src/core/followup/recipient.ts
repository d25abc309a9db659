import { fill, type MessageFacts } from './template';

/** Somebody a message is written to. */
export interface Recipient {
  id: number;
  learnerId: string;
  name: string;
  email: string | null;
  facts: MessageFacts;
  /** When somebody last wrote to them, within the last 5 days. */
  contacted: number | null;
}

/** Why a message to somebody cannot go; null when it can. */
export function whatStops(recipient: Recipient, text: { subject: string; body: string }): string | null {
  if (!recipient.email) return 'has no e-mail address';
  const gaps = [...fill(text.subject, recipient.facts).missing, ...fill(text.body, recipient.facts).missing];
  return gaps.length === 0 ? null : `has no value for ${[...new Set(gaps)].join(', ')}`;
}
