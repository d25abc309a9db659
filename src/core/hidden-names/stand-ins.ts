/**
 * Stable stand-ins for people, while a screen is shared with names hidden.
 *
 * A person's number is permuted under a key of the installation's own, so that one
 * person has one stand-in, no two share an id, and the server alone can tell who it is.
 */

const GIVEN =
  'Amber Ash Birch Briar Cedar Cloud Clover Copper Coral Dawn Dune Ember Fern Flint Frost Hazel Heath Holly Indigo Ivory Jade Juniper Maple Moss Ochre Olive Pearl Reed Rowan Russet Sage Slate'.split(
    ' ',
  );
const FAMILY =
  'Avocet Bittern Bunting Chough Coot Cormorant Curlew Dabchick Dunlin Eider Wigeon Fulmar Gannet Godwit Grebe Guillemot Heron Kestrel Knot Lapwing Linnet Merlin Osprey Petrel Pipit Plover Puffin Sandpiper Shearwater Skua Teal Tern'.split(
    ' ',
  );
const ALPHABET = '0123456789abcdefghjkmnpqrstvwxyz';
const ROUNDS = 6;
const MARK = 'c-';

/** Mixes a key's characters and a number into 32 bits (FNV-1a, then the finisher of MurmurHash3). */
function mix(key: string, value: number): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < key.length; i += 1) hash = Math.imul(hash ^ key.charCodeAt(i), 0x01000193);
  hash ^= value;
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 0;
}

/** A permutation of 32-bit numbers: a Feistel network over their halves. */
function permute(key: string, value: number, back: boolean): number {
  let left = value >>> 16;
  let right = value & 0xffff;
  for (let i = 0; i < ROUNDS; i += 1) {
    const round = back ? ROUNDS - 1 - i : i;
    if (back) [left, right] = [right ^ (mix(`${key}${round}`, left) & 0xffff), left];
    else [left, right] = [right, left ^ (mix(`${key}${round}`, right) & 0xffff)];
  }
  return ((left << 16) | right) >>> 0;
}

export interface StandInName {
  given_name: string;
  family_name: string;
}

/** A made-up name for a person's number. Two people may share one, as real people do; their ids differ. */
export function standInName(key: string, id: number): StandInName {
  const number = permute(key, id, false);
  return {
    given_name: GIVEN[number % GIVEN.length],
    family_name: `${FAMILY[Math.floor(number / 32) % FAMILY.length]} ${Math.floor(number / 1024) % 100}`,
  };
}

/** A stand-in id such as `c-7k2m9qx`, no two alike. */
export function standInId(key: string, id: number): string {
  let rest = permute(key, id, false);
  let text = '';
  for (let i = 0; i < 7; i += 1) {
    text = ALPHABET[rest % 32] + text;
    rest = Math.floor(rest / 32);
  }
  return MARK + text;
}

export function standInEmail(key: string, id: number): string {
  return `${standInId(key, id)}@hidden.example`;
}

/** A number from a range reserved for fiction, another than the demo’s. */
export function standInPhone(key: string, id: number): string {
  return `+44 7700 900${String(permute(key, id, false) % 1000).padStart(3, '0')}`;
}

/** The person's number behind a stand-in id; null for what is none. */
export function standsFor(key: string, text: string): number | null {
  if (!text.startsWith(MARK) || text.length !== MARK.length + 7) return null;
  let number = 0;
  for (const letter of text.slice(MARK.length)) {
    const digit = ALPHABET.indexOf(letter);
    if (digit < 0) return null;
    number = number * 32 + digit;
  }
  return number > 0xffffffff ? null : permute(key, number, true);
}
