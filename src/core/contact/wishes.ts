import type { Channel } from './recipient';

/** What a learner may wish: not by a channel, or not at all. */
export const WISHES = ['email', 'sms', 'all'] as const;
export type Wish = (typeof WISHES)[number];

export const WISH_WORDS: Record<Wish, string> = {
  email: 'not by e-mail',
  sms: 'not by text message',
  all: 'not at all',
};

/** The wishes of a list of names, in order. @example readWishes('all,email') // ['email', 'all'] */
export function readWishes(text: string | null): Wish[] {
  const named = (text ?? '').split(',');
  return WISHES.filter((wish) => named.includes(wish));
}

/** Why a message by a channel would be against somebody's wishes; null where it is not. */
export function againstWishes(wishes: readonly Wish[], channel: Channel): string | null {
  if (wishes.includes('all')) return 'asked not to be written to';
  return wishes.includes(channel) ? `asked to be written to ${WISH_WORDS[channel]}` : null;
}
