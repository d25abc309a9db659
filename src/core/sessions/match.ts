/** Who a row of a meeting's presence record is about. */
import { foldText } from '../people/fold';

/** A learner who may be meant. */
export interface Candidate {
  id: number;
  learnerId: string;
  name: string;
  email: string | null;
}

/** What a record says of somebody: meetings let people type their own names. */
export interface PresencePerson {
  person: string;
  email: string | null;
}

/** How it came to be known whom a row is about; `staff` and `nobody` are no learner's. */
export type MatchedBy = 'email' | 'id' | 'name' | 'alias' | 'staff' | 'nobody';

export type Match =
  | { by: 'email' | 'id' | 'name' | 'alias'; id: number }
  /** Somebody has said that this is no learner. */
  | { by: 'nobody' }
  | { by: null };

/** Likely, and proposed to whoever settles it: never taken by itself. */
export interface Proposal {
  id: number;
  likeness: number;
}

/** A name as close as this, and no second one, is proposed. */
const CLOSE = 0.92;

/** Words that devices and meetings put behind a name. */
const DEVICES = /\b(i?phone|ipad|tablet|mobile|laptop|pc|desktop|computer|android|guest|host|web)\b/g;

/**
 * A name without what does not tell people apart: case, accents, anything in brackets, the name of a device, spaces.
 *
 * @example foldName('Inès  A. (phone)') // 'ines a'
 */
export function foldName(name: string): string {
  const plain = foldText(name)
    .replace(/[([{<][^)\]}>]*[)\]}>]?/g, ' ')
    .replace(/[‘’ʼ`´']/g, '')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();
  const bare = plain.replace(DEVICES, ' ').replace(/\s+/g, ' ').trim();
  return bare === '' ? plain : bare;
}

/**
 * A name's words in an order of their own, so that "Farrow, Quentin" is who "Quentin Farrow" is.
 *
 * @example nameKey('Farrow, Quentin') // 'farrow quentin'
 */
export function nameKey(name: string): string {
  return foldName(name).split(' ').sort().join(' ');
}

/** The letters that two words share in about the same place, as Jaro has them: 0 for none, 1 for the same word. */
function jaro(a: string[], b: string[]): number {
  if (a.length === 0 || b.length === 0) return Number(a.length === b.length);
  const reach = Math.max(0, Math.floor(Math.max(a.length, b.length) / 2) - 1);
  const taken = new Array<boolean>(b.length).fill(false);
  const ofA: string[] = [];
  for (const [place, letter] of a.entries()) {
    const end = Math.min(b.length - 1, place + reach);
    for (let at = Math.max(0, place - reach); at <= end; at += 1) {
      if (taken[at] || b[at] !== letter) continue;
      taken[at] = true;
      ofA.push(letter);
      break;
    }
  }
  if (ofA.length === 0) return 0;
  const ofB = b.filter((_, place) => taken[place]);
  const moved = ofA.filter((letter, place) => letter !== ofB[place]).length / 2;
  const shared = ofA.length;
  return (shared / a.length + shared / b.length + (shared - moved) / shared) / 3;
}

/**
 * How alike two names are, 0–1: Jaro's measure, with Winkler's bonus of a tenth for each of the first four letters
 * that are the same (W. E. Winkler, "String comparator metrics and enhanced decision rules in the Fellegi-Sunter
 * model of record linkage", 1990).
 *
 * @example Math.round(1000 * likeness('martha', 'marhta')) // 961
 */
export function likeness(first: string, second: string): number {
  const [a, b] = [[...first], [...second]];
  const plain = jaro(a, b);
  let same = 0;
  while (same < 4 && same < a.length && a[same] === b[same]) same += 1;
  return plain + same * 0.1 * (1 - plain);
}

/** Are all words of one name, or their first letters, words of the other? A letter alone says nothing. */
function sharesWords(first: string, second: string): boolean {
  const [few, many] = [first.split(' '), second.split(' ')].sort((a, b) => a.length - b.length);
  if (!few.some((word) => word.length > 1)) return false;
  const left = [...many];
  return few.every((word) => {
    const at = left.findIndex((other) => other === word || (word.length === 1 && other.startsWith(word)));
    if (at >= 0) left.splice(at, 1);
    return at >= 0;
  });
}

/**
 * Whom presence rows are about, of those expected: by e-mail, else by id, else by the very name, else by a name that
 * somebody has settled before. A name that is only close is proposed, where there is one alone. Two of one name are
 * never told apart by it.
 */
export class Matcher {
  /** Null for an address that two of them share. */
  private readonly byEmail = new Map<string, Candidate | null>();
  private readonly byId = new Map<string, Candidate>();
  private readonly byName = new Map<string, Candidate[]>();

  /** @param aliases folded names that somebody has settled, with the learner; null for one who is no learner */
  constructor(
    candidates: readonly Candidate[],
    private readonly aliases: ReadonlyMap<string, number | null> = new Map(),
  ) {
    for (const one of candidates) {
      const email = one.email?.trim().toLowerCase();
      if (email) this.byEmail.set(email, (this.byEmail.get(email) ?? one)?.id === one.id ? one : null);
      this.byId.set(one.learnerId.toLowerCase(), one);
      const name = nameKey(one.name);
      const same = this.byName.get(name) ?? [];
      // A person who has two records that were merged is one.
      if (!same.some(({ id }) => id === one.id)) this.byName.set(name, [...same, one]);
    }
  }

  match({ person, email }: PresencePerson): Match {
    const byEmail = email ? this.byEmail.get(email.trim().toLowerCase()) : undefined;
    if (byEmail) return { by: 'email', id: byEmail.id };
    const byId = this.byId.get(person.trim().toLowerCase());
    if (byId) return { by: 'id', id: byId.id };
    const named = this.byName.get(nameKey(person)) ?? [];
    if (named.length === 1) return { by: 'name', id: named[0].id };
    const settled = this.aliases.get(foldName(person));
    if (settled !== undefined) return settled === null ? { by: 'nobody' } : { by: 'alias', id: settled };
    return { by: null };
  }

  /**
   * Whom a row that nothing else tells may be about: the one whose name is close, or made of the same words in another order
   * or with some left out, where there is one alone.
   *
   * @example new Matcher([bjorn]).propose({ person: 'Björn (phone)' }) // the only Björn of the group
   */
  propose({ person }: Pick<PresencePerson, 'person'>): Proposal | null {
    const name = foldName(person);
    if (name === '') return null;
    const others = [...this.byName.values()].map((people) => {
      const other = foldName(people[0].name);
      return { other, people, likeness: likeness(name, other) };
    });
    const close = others.filter((other) => other.likeness >= CLOSE);
    const found = close.length > 0 ? close : others.filter(({ other }) => sharesWords(name, other));
    if (found.length !== 1 || found[0].people.length !== 1) return null;
    return { id: found[0].people[0].id, likeness: found[0].likeness };
  }
}
