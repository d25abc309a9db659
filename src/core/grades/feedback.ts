/** Feedback as clean text: its paragraphs and links, whatever it came as. */
import { convert, type FormatCallback } from 'html-to-text';

/** A piece of a paragraph: plain text, or a link. */
export interface FeedbackPart {
  text: string;
  /** Only addresses that are http, https or mail. */
  href?: string;
}

/** Does it hold tags or entities? Plain text may hold a < or & of its own. */
const IS_HTML = /<\/?[a-z][^>]*>|&(?:[a-z]+|#\d+|#x[\da-f]+);/i;
/** Links as they stand in the text: words and address between marks that no text has, or a bare address. */
const LINK = /\u27E6([^\u27E7\u27EB]*)\u27EB([^\u27E7]*)\u27E7|(https?:\/\/[^\s<>"\u27E6]+[^\s<>"\u27E6.,;:!?)\]])/g;
const MARKS = /[\u27E6\u27E7\u27EB]/g;
const SAFE = /^(https?:|mailto:)/i;

/** A link as its words and its address between our marks. */
const link: FormatCallback = (element, walk, builder) => {
  builder.addLiteral('\u27E6');
  walk(element.children, builder);
  builder.addLiteral(`\u27EB${String(element.attribs.href ?? '').replace(MARKS, '')}\u27E7`);
};

/** HTML without its tags: html-to-text leaves out scripts and styles, and keeps paragraphs and lists. */
function plainText(text: string): string {
  const clean = text.replace(MARKS, '');
  if (!IS_HTML.test(clean)) return clean;
  return convert(clean, {
    wordwrap: false,
    formatters: { link },
    selectors: [
      { selector: 'a', format: 'link' },
      { selector: 'img', format: 'skip' },
      ...['h1', 'h2', 'h3', 'h4'].map((selector) => ({ selector, options: { uppercase: false } })),
      { selector: 'ul', options: { itemPrefix: '– ' } },
    ],
  });
}

function partsOf(paragraph: string): FeedbackPart[] {
  const parts: FeedbackPart[] = [];
  let from = 0;
  for (const found of paragraph.matchAll(LINK)) {
    if (found.index > from) parts.push({ text: paragraph.slice(from, found.index) });
    from = found.index + found[0].length;
    const [, words, address, bare] = found;
    const href = (bare ?? address).trim();
    const text = bare ?? (words.trim() || href);
    // An address of another sort leads nowhere: its words stay.
    if (text) parts.push(SAFE.test(href) ? { text, href } : { text });
  }
  if (from < paragraph.length) parts.push({ text: paragraph.slice(from) });
  return parts;
}

/**
 * Feedback in paragraphs, each of texts and links. Nothing of it is markup: it is drawn as text.
 *
 * @example cleanFeedback('<p>Good.</p><script>x()</script>') // [[{ text: 'Good.' }]]
 */
export function cleanFeedback(feedback: string): FeedbackPart[][] {
  return plainText(feedback)
    .split(/\n\s*\n/)
    .map((paragraph) => paragraph.trim())
    .filter(Boolean)
    .map(partsOf);
}

/** The same as one text, for a file. */
export function feedbackText(feedback: string | null): string | null {
  if (feedback === null) return null;
  return cleanFeedback(feedback)
    .map((parts) => parts.map(({ text }) => text).join(''))
    .join('\n\n');
}
