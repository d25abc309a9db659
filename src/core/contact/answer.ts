/** The words of an answer, apart from what it quotes. */

const INTRODUCTION = /^(.+ wrote:|-{2,}\s*original message\s*-{2,})$/i;
/** No line that introduces a quotation is longer. */
const LONGEST_INTRODUCTION = 500;

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
  // From here on there are quoted and empty lines alone: looked for once, from the end.
  const tail = lines.findLastIndex((line) => !line.startsWith('>') && line.trim() !== '') + 1;
  const begins = lines.findIndex((line, index) =>
    INTRODUCTION.test(line.trim().slice(0, LONGEST_INTRODUCTION))
      ? index + 1 >= tail
      : index >= tail && line.startsWith('>'),
  );
  if (begins < 0) return { own: text.trim(), quoted: '' };
  return { own: lines.slice(0, begins).join('\n').trim(), quoted: lines.slice(begins).join('\n').trim() };
}
