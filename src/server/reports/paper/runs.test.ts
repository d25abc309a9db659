import { describe, expect, it } from 'vitest';
import { faceOf } from './faces';
import { breakable, runsOf, settable } from './runs';

const texts = (text: string) => runsOf(text, 400).map((run) => run.text);
const file = (text: string) => faceOf(text.codePointAt(0)!, 400)?.split('/').at(-1);

describe('a face', () => {
  it.each([
    ['a', 'noto-sans-latin-400-normal.woff'],
    ['ő', 'noto-sans-latin-ext-400-normal.woff'],
    ['ễ', 'noto-sans-vietnamese-400-normal.woff'],
    ['Ж', 'noto-sans-cyrillic-400-normal.woff'],
    ['Ω', 'noto-sans-greek-400-normal.woff'],
    ['क', 'noto-sans-devanagari-400-normal.woff'],
    ['م', 'noto-sans-arabic-arabic-400-normal.woff'],
    ['ש', 'noto-sans-hebrew-hebrew-400-normal.woff'],
    ['ส', 'noto-sans-thai-thai-400-normal.woff'],
  ])('of %s is %s', (sign, name) => {
    expect(file(sign)).toBe(name);
  });

  it('is there for Chinese, Japanese and Korean, and each sign of Korean is Korean', () => {
    for (const sign of '王漢字さくらカ') expect(file(sign)).toMatch(/^noto-sans-sc-/);
    for (const sign of '김민준한') expect(file(sign)).toMatch(/^noto-sans-kr-/);
    expect(file('😀')).toMatch(/^noto-emoji-/);
  });

  it('is of the weight that is asked for', () => {
    expect(faceOf(0x61, 600)).toMatch(/latin-600-normal/);
    expect(faceOf(0x1f600, 600)).toMatch(/-400-normal/);
  });
});

describe('a line', () => {
  it('is one run where it is Latin', () => {
    expect(runsOf('Ines Marrow', 400)).toMatchObject([{ text: 'Ines Marrow', isRightToLeft: false }]);
    expect(runsOf('', 400)).toEqual([]);
  });

  it('has right-to-left words from the right, numbers and Latin in between from the left', () => {
    expect(texts('שלום 12')).toEqual(['12', 'שלום ']);
    expect(texts('Norrick שלום')).toEqual(['Norrick ', 'שלום']);
    expect(runsOf('שלום', 400)[0].isRightToLeft).toBe(true);
  });

  it('mirrors brackets that stand in right-to-left text', () => {
    expect(texts('א (ב) ג').join('')).toContain('(');
    const all = texts('א (ב)').join('|');
    // Drawn from the left: the closing bracket first, drawn as an opening one.
    expect(all.indexOf('(')).toBeLessThan(all.indexOf('ב'));
  });

  it('keeps accents and joiners with their letter, and a space with the word before it', () => {
    expect(texts('a\u0301b').join('')).toBe('a\u0301b');
    expect(texts('क्ष त्र')).toEqual(['क्ष त्र']);
    // After a picture the space is a plain one.
    expect(texts('😀 a')).toEqual(['😀', ' a']);
  });

  it('has no line breaks, controls or halves of signs', () => {
    expect(settable('a\r\n\tb\u0000\u202ec\ud800')).toBe('a bc\ufffd');
  });

  it('may end after words and hyphens, and between words of scripts without spaces', () => {
    expect(breakable('one two-three (four)')).toEqual(['one ', 'two-', 'three ', '(four)']);
    expect(breakable('สวัสดีครับ').length).toBeGreaterThan(1);
    expect(breakable('你好世界').length).toBeGreaterThan(1);
    expect(breakable('').length).toBe(0);
  });
});
