import { createHash } from 'node:crypto';

/** How the word in a link that needs no sign-in is kept: by its hash alone, so that nobody follows it who reads the database. */
export const linkHash = (word: string): string => createHash('sha256').update(word).digest('base64url');
