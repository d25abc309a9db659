import { fill, type MessageFacts } from './template';

export const CHANNELS = ['email', 'sms'] as const;
export type Channel = (typeof CHANNELS)[number];
/** What a sender may ask for: one channel for all, or what each prefers. */
export const CHANNEL_CHOICES = ['preferred', ...CHANNELS] as const;
export type ChannelChoice = (typeof CHANNEL_CHOICES)[number];

export const CHANNEL_WORDS: Record<Channel, string> = { email: 'e-mail', sms: 'text message' };

/** Longest text message, in characters: six parts of a long one. */
export const LONGEST_SMS = 918;

/** Somebody a message is written to. */
export interface Recipient {
  id: number;
  learnerId: string;
  name: string;
  email: string | null;
  phone: string | null;
  preferred: Channel | null;
  /** The learner's own time zone; null for the programme's. */
  timezone: string | null;
  facts: MessageFacts;
  /** When somebody last tried to reach them, within the last 5 days. */
  contacted: number | null;
}

export interface MessageText {
  subject: string;
  body: string;
}

/** The channel a message to somebody takes: the one asked for, else the preferred, else one there is an address for. */
export function channelOf({ email, phone, preferred }: Recipient, wanted: ChannelChoice): Channel {
  if (wanted !== 'preferred') return wanted;
  if (preferred === 'sms' && phone) return 'sms';
  if (preferred === 'email' && email) return 'email';
  return !email && phone ? 'sms' : 'email';
}

/** A phone number as a gateway takes it: digits with a leading +; null when it is none. */
export function dialled(phone: string | null): string | null {
  const digits = phone?.replace(/[^\d+]/g, '') ?? '';
  return /^\+?\d{7,15}$/.test(digits) ? digits : null;
}

/** Why a message to somebody cannot go; null when it can. */
export function whatStops(recipient: Recipient, text: MessageText, wanted: ChannelChoice = 'email'): string | null {
  const channel = channelOf(recipient, wanted);
  if (channel === 'email' && !recipient.email) return 'has no e-mail address';
  if (channel === 'sms' && !dialled(recipient.phone)) return 'has no phone number';
  const body = fill(text.body, recipient.facts);
  const subject = channel === 'email' ? fill(text.subject, recipient.facts).missing : [];
  const gaps = [...subject, ...body.missing];
  if (gaps.length > 0) return `has no value for ${[...new Set(gaps)].join(', ')}`;
  return channel === 'sms' && body.text.length > LONGEST_SMS
    ? `would get a text message of more than ${LONGEST_SMS} characters`
    : null;
}
