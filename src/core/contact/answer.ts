/** The words of an answer, apart from what it quotes. */

const INTRODUCTION = /^(on .+ wrote:|.+ wrote:|-{2,}\s*original message\s*-{2,})$/i;

export interface AnswerParts {
  own: string;
  quoted: string;
}

/**
 * Splits a plain-text answer where it begins to quote: at the first line that introduces a
 * quotation, or the first of the lines that begin with `>` up to its end (RFC 3676, 4.5).
 * An answer written between the quoted lines is all its own.
 */
export function splitAnswer(text: string): AnswerParts {
  const lines = text.replace(/\r\n?/g, '\n').split('\n');
  const begins = lines.findIndex((line, index) => {
    if (INTRODUCTION.test(line.trim())) return lines.slice(index + 1).every((rest) => /^>|^\s*$/.test(rest));
    return line.startsWith('>') && lines.slice(index).every((rest) => /^>|^\s*$/.test(rest));
  });
  if (begins < 0) return { own: text.trim(), quoted: '' };
  return { own: lines.slice(0, begins).join('\n').trim(), quoted: lines.slice(begins).join('\n').trim() };
}
