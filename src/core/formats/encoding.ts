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

/**
 * The encoding of a file held in memory whole, or of its head when `partial`
 * (a character cut at the end is then no fault).
 */
export function encodingOf(bytes: Uint8Array, partial = false): TextEncoding | 'binary' {
  const { encoding, certain } = sniffEncoding(bytes.subarray(0, 65_536));
  if (certain || encoding !== 'utf-8') return encoding;
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: partial });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}
