/** The four kinds of action that every source's own words are mapped to. */

export const ACTION_KINDS = ['looked', 'worked', 'talked', 'other'] as const;
export type ActionKind = (typeof ACTION_KINDS)[number];

/** What the log is narrowed to by: one kind, or every kind by which something is opened. */
export const OPENS = 'opens';
export const LOG_KINDS = [...ACTION_KINDS, OPENS] as const;
export type LogKind = (typeof LOG_KINDS)[number];

/** The kinds behind a word that narrows the log. */
export function kindsOf(kind: LogKind): ActionKind[] {
  return kind === OPENS ? ACTION_KINDS.filter((kind) => kind !== 'other') : [kind];
}

/** Words known without mapping; every other one is *other* until someone maps it. */
export const KNOWN_ACTIONS: Readonly<Record<string, ActionKind>> = {
  opened: 'looked',
  viewed: 'looked',
  downloaded: 'looked',
  played: 'looked',
  started: 'worked',
  saved: 'worked',
  submitted: 'worked',
  answered: 'worked',
  completed: 'worked',
  progressed: 'worked',
  posted: 'talked',
  replied: 'talked',
  messaged: 'talked',
};

/** Words that are *other* on purpose: nobody has to say what they are. */
const KNOWN_OTHERS = new Set(['signed_in', 'signed_out', 'last_access']);

/** Is the word one that needs no mapping? */
export function isKnownAction(word: string): boolean {
  return Object.hasOwn(KNOWN_ACTIONS, word) || KNOWN_OTHERS.has(word);
}

/** The kind of a source's word, by the built-in list. */
export function kindOfAction(word: string): ActionKind {
  return Object.hasOwn(KNOWN_ACTIONS, word) ? KNOWN_ACTIONS[word] : 'other';
}
