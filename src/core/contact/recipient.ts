import { fill, type MessageFacts } from './template';
import { againstWishes, type Wish } from './wishes';

export const CHANNELS = ['email', 'sms'] as const;
export type Channel = (typeof CHANNELS)[number];
/** What a sender may ask for: one channel for all, or what each prefers. */
export const CHANNEL_CHOICES = ['preferred', ...CHANNELS] as const;
export type ChannelChoice = (typeof CHANNEL_CHOICES)[number];

export const CHANNEL_WORDS: Record<Channel, string> = { email: 'e-mail', sms: 'text message' };

/** Longest text message, in characters: six parts of a long one. */
export const LONGEST_SMS = 918;

/** Who may receive a message about a learner: they themselves, or somebody beside them. */
export const RECEIVERS = ['learner', 'crew', 'family', 'employer', 'other', 'organisation'] as const;
export type Receiver = (typeof RECEIVERS)[number];

export const RECEIVER_WORDS: Record<Receiver, string> = {
  learner: 'the learner',
  crew: 'staff of their crew',
  family: 'family',
  employer: 'employer',
  other: 'other contacts',
  organisation: 'the organisation’s contact',
};

/** What a contact of a learner is as a receiver, by the relation that somebody wrote. @example receiverOf('Family') // 'family' */
export function receiverOf(relation: string): Receiver {
  const word = relation.trim().toLowerCase();
  return word === 'family' || word === 'employer' ? word : 'other';
}

/** The receivers of a stored list, in order; the learner where it names none. @example readReceivers('family,learner') */
export function readReceivers(text: string): Receiver[] {
  const named = text.split(',').map((word) => word.trim());
  const known = RECEIVERS.filter((receiver) => named.includes(receiver));
  return known.length > 0 ? known : ['learner'];
}

/** Somebody a message is written to: the learner whom it is about, or somebody beside them. */
export interface Recipient {
  /** Of this one message: a learner's number, with that of the contact or the coordinator it goes to. */
  key: string;
  id: number;
  learnerId: string;
  name: string;
  receiver: Receiver;
  /** Whoever receives it by name, with what they are to the learner; the learner's own name for the learner. */
  to: string;
  email: string | null;
  phone: string | null;
  preferred: Channel | null;
  /** How they wish not to be written to. */
  wishes: readonly Wish[];
  /** The learner's own time zone; null for the programme's. */
  timezone: string | null;
  facts: MessageFacts;
  /** When somebody last tried to reach them, within the last 5 days. */
  contacted: number | null;
  /** What the writer says on this learner's page alone; null for what is said to all. */
  sentence: string | null;
}

export interface MessageText {
  subject: string;
  body: string;
}

/** The text of a message: one for learners, and one for those beside them, to whom it is not about "you". */
export interface WrittenText extends MessageText {
  other_subject?: string;
  other_body?: string;
}

/** What somebody is written of the two texts. */
export function textFor({ receiver }: Pick<Recipient, 'receiver'>, text: WrittenText): MessageText {
  return receiver === 'learner'
    ? { subject: text.subject, body: text.body }
    : { subject: text.other_subject ?? '', body: text.other_body ?? '' };
}

/** The channel a message to somebody takes: the one asked for, else the preferred, else one there is an address for. */
export function channelOf(
  { email, phone, preferred, wishes }: Pick<Recipient, 'email' | 'phone' | 'preferred' | 'wishes'>,
  wanted: ChannelChoice,
): Channel {
  if (wanted !== 'preferred') return wanted;
  const isOpen = (channel: Channel) => !wishes.includes(channel);
  if (preferred === 'sms' && phone && isOpen('sms')) return 'sms';
  if (preferred === 'email' && email && isOpen('email')) return 'email';
  if (email && isOpen('email')) return 'email';
  return phone && isOpen('sms') ? 'sms' : 'email';
}

/** A phone number as a gateway takes it: digits with a leading +; null when it is none. */
export function dialled(phone: string | null): string | null {
  const digits = phone?.replace(/[^\d+]/g, '') ?? '';
  return /^\+?\d{7,15}$/.test(digits) ? digits : null;
}

/** Why a message to somebody cannot go; null when it can. */
export function whatStops(recipient: Recipient, written: WrittenText, wanted: ChannelChoice = 'email'): string | null {
  const channel = channelOf(recipient, wanted);
  const text = textFor(recipient, written);
  const wished = againstWishes(recipient.wishes, channel);
  if (wished !== null) return wished;
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
