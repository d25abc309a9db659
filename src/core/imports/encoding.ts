/** Which text encoding a file is in. */

export type TextEncoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

export interface Sniffed {
  encoding: TextEncoding | 'binary';
  /** True when a byte-order mark settled it. */
  certain: boolean;
}

/** Control characters that no text file holds (tab, line feeds and form feed are fine). */
function isControl(byte: number): boolean {
  return byte < 32 && byte !== 9 && byte !== 10 && byte !== 12 && byte !== 13;
}

/**
 * Looks at a file's first bytes. UTF-16 without a mark shows in zero bytes that stand on
 * one side only; any other zero byte, or many control characters, mean no text at all.
 * Without a mark "utf-8" is only a guess: bytes further on may prove it Windows-1252.
 */
export function sniffEncoding(head: Uint8Array): Sniffed {
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: 'utf-16le', certain: true };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: 'utf-16be', certain: true };
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return { encoding: 'utf-8', certain: true };
  let even = 0;
  let odd = 0;
  let control = 0;
  for (let i = 0; i < head.length; i += 1) {
    if (head[i] === 0) {
      if (i % 2 === 0) even += 1;
      else odd += 1;
    } else if (isControl(head[i])) control += 1;
  }
  const half = head.length / 2;
  if (odd > half * 0.4 && even < half * 0.05) return { encoding: 'utf-16le', certain: false };
  if (even > half * 0.4 && odd < half * 0.05) return { encoding: 'utf-16be', certain: false };
  if (even + odd > 0 || control > head.length * 0.02) return { encoding: 'binary', certain: true };
  return { encoding: 'utf-8', certain: false };
}

/** What a text turned out to be written in. */
export interface ReadAs {
  encoding: TextEncoding;
  /** Does it hold bytes that its encoding has no character for? They are read as U+FFFD. */
  damaged: boolean;
}

/**
 * Goes over bytes in pieces and counts the characters of several bytes that are good UTF-8, and the
 * bytes that are none. Text in Windows-1252 hardly ever makes a good one by chance.
 */
export class Utf8Tally {
  private good = 0;
  private bad = 0;
  /** Bytes of the character at hand that are still to come, and the least and most that the next may be. */
  private due = 0;
  private low = 0x80;
  private high = 0xbf;

  push(bytes: Uint8Array): void {
    for (let i = 0; i < bytes.length; i += 1) {
      const byte = bytes[i];
      if (this.due > 0) {
        if (byte >= this.low && byte <= this.high) {
          [this.low, this.high] = [0x80, 0xbf];
          this.due -= 1;
          if (this.due === 0) this.good += 1;
          continue;
        }
        this.bad += 1;
        this.due = 0;
      }
      if (byte >= 0x80) this.begin(byte);
    }
  }

  /** Windows-1252 when more bytes are wrong as UTF-8 than characters are right. */
  readAs(partial = false): ReadAs {
    const bad = this.bad + (this.due > 0 && !partial ? 1 : 0);
    if (bad > this.good) return { encoding: 'windows-1252', damaged: false };
    return { encoding: 'utf-8', damaged: bad > 0 };
  }

  /** The first byte of a character of several: the Unicode Standard, table 3-7, says which bytes may follow. */
  private begin(byte: number): void {
    [this.low, this.high] = [0x80, 0xbf];
    if (byte >= 0xc2 && byte <= 0xdf) this.due = 1;
    else if (byte >= 0xe0 && byte <= 0xef) {
      this.due = 2;
      if (byte === 0xe0) this.low = 0xa0;
      if (byte === 0xed) this.high = 0x9f;
    } else if (byte >= 0xf0 && byte <= 0xf4) {
      this.due = 3;
      if (byte === 0xf0) this.low = 0x90;
      if (byte === 0xf4) this.high = 0x8f;
    } else this.bad += 1;
  }
}

/**
 * The encoding of a file held in memory whole, or of its head when `partial`
 * (a character cut at the end is then no fault).
 */
export function encodingOf(bytes: Uint8Array, partial = false): TextEncoding | 'binary' {
  const { encoding, certain } = sniffEncoding(bytes.subarray(0, 65_536));
  if (certain || encoding !== 'utf-8') return encoding;
  const tally = new Utf8Tally();
  tally.push(bytes);
  return tally.readAs(partial).encoding;
}
