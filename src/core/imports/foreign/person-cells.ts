import type { Plan } from './plan';

/** What a row says of whom it is about; empty where it does not. */
export interface PersonCells {
  /** The source's own id, or an account's name. */
  id: string;
  /** In small letters. */
  email: string;
  name: string;
}

const NOBODY: PersonCells = { id: '', email: '', name: '' };

/** One text for all that a row says of somebody: rows with the same are about the same. */
export function personKey({ id, email, name }: PersonCells): string {
  return `${id}\u0000${email}\u0000${name}`;
}

/** Letters of a name, an id or an address at most: what is longer is none. */
const MOST = 200;

/** Is what a row says of somebody longer than a name can be? */
export function isTooLong({ id, email, name }: PersonCells): boolean {
  return id.length > MOST || email.length > MOST || name.length > MOST;
}

/** Somebody as they are named to whoever has to say who they are. */
export function personInWords({ id, email, name }: PersonCells): string {
  const rest = [email, id].filter((text) => text !== '');
  const spoken = spokenName(name);
  return name === '' ? rest.join(', ') : rest.length === 0 ? spoken : `${spoken} (${rest.join(', ')})`;
}

/**
 * What it is remembered by when somebody has said who it is: an address or an id, which tells two of one name apart, else the
 * name. Of an address every sign is kept, as one word that folding leaves as it is.
 *
 * @example keyToSettle({ id: '', email: 'a@b', name: 'Ines' }) // 'ax40xb'
 */
export function keyToSettle({ id, email, name }: PersonCells): string {
  const own = (email || id).toLowerCase();
  if (own === '') return spokenName(name);
  return own.replace(/[^\p{L}\p{N}]/gu, (sign) => `x${sign.codePointAt(0)!.toString(16)}x`);
}

/**
 * Opens a reader of whom rows are about. A column may hold ids, e-mail addresses and names mixed: whatever has an @ is an
 * address.
 */
export function openPersonReader({ roles }: Pick<Plan, 'roles'>): (cells: readonly string[]) => PersonCells {
  const at = (role: string) => roles.findIndex((known) => known === role);
  const [learnerId, account, email, name] = ['learner_id', 'account', 'email', 'name'].map(at);
  const [given, family] = [at('given_name'), at('family_name')];
  const cell = (cells: readonly string[], index: number) => (index < 0 ? '' : (cells[index] ?? '').trim());
  return (cells) => {
    const person = { ...NOBODY };
    const isAddress = (text: string) => {
      if (!text.includes('@')) return false;
      person.email ||= text.toLowerCase();
      return true;
    };
    for (const index of [email, learnerId, account]) {
      const text = cell(cells, index);
      if (text !== '' && !isAddress(text) && index !== email) person.id ||= text;
    }
    const whole = cell(cells, name);
    // The family's name first, so that each can be told apart again.
    const parts = [cell(cells, family), cell(cells, given)].filter((text) => text !== '').join(', ');
    for (const text of [parts, whole]) if (text !== '' && !isAddress(text)) person.name ||= text;
    return person;
  };
}

/**
 * A full name as it is spoken: "Family, Given" is turned round.
 * @example spokenName('Quarrie, Bram') // 'Bram Quarrie'
 */
export function spokenName(name: string): string {
  const parts = name.split(',').map((part) => part.trim());
  return parts.length === 2 && parts[0] !== '' && parts[1] !== '' ? `${parts[1]} ${parts[0]}` : name.trim();
}

/**
 * Given and family name of a full one: the last word is the family's, with what belongs before it.
 * @example partsOfName('Ines van der Marrow') // { given: 'Ines', family: 'van der Marrow' }
 */
export function partsOfName(name: string): { given: string; family: string } {
  const turned = name.split(',').map((part) => part.trim());
  if (turned.length === 2 && turned[0] !== '' && turned[1] !== '') return { given: turned[1], family: turned[0] };
  const words = name.trim().split(/\s+/);
  if (words.length === 1) return { given: words[0], family: '' };
  let from = words.length - 1;
  while (from > 1 && /^(van|von|de|der|den|del|della|di|da|du|la|le|ter|ten|zu|af|av|bin|al)$/i.test(words[from - 1]))
    from -= 1;
  return { given: words.slice(0, from).join(' '), family: words.slice(from).join(' ') };
}
