/** Feedback as clean text: its paragraphs and links, whatever it came as. */
import { convert, type FormatCallback } from 'html-to-text';

/** A piece of a paragraph: plain text, or a link. */
export interface FeedbackPart {
  text: string;
  /** Only addresses that are http, https or mail. */
  href?: string;
}

/** Links as they stand in the text: words and address between marks that no text has, or a bare address. */
const LINK =
  /\u27E6([^\u27E6\u27E7\u27EB]*)\u27EB([^\u27E6\u27E7]*)\u27E7|(https?:\/\/[^\s<>"\u27E6]+[^\s<>"\u27E6.,;:!?)\]])/g;
const MARKS = /[\u27E6\u27E7\u27EB]/g;
const SAFE = /^(https?:|mailto:)/i;

/** A link as its words and its address between our marks. */
const link: FormatCallback = (element, walk, builder) => {
  builder.addLiteral('\u27E6');
  walk(element.children, builder);
  builder.addLiteral(`\u27EB${String(element.attribs.href ?? '').replace(MARKS, '')}\u27E7`);
};

/**
 * Does it hold tags or entities? Plain text may hold a < or & of its own. Two looks along the text and no more, whatever it is.
 */
function isHtml(text: string): boolean {
  const tag = text.search(/<[/a-z!]/i);
  return (tag >= 0 && text.lastIndexOf('>') > tag) || /&(?:[a-z]{2,31}|#\d{1,7}|#x[\da-f]{1,6});/i.test(text);
}

/** Longest feedback that is read, in characters, and how deep its markup goes: what is beyond is left out. */
const LONGEST = 100_000;
const DEEPEST = 60;

/**
 * Feedback as it is stored: cleaned once, when it comes. HTML loses its tags; paragraphs, lists and links stay, a link as its
 * words and its address between marks of our own.
 *
 * @example storedFeedback('<p>See <a href="https://a.example">this</a>.</p>') // 'See ⟦this⟫https://a.example⟧.'
 */
export function storedFeedback(feedback: string): string {
  const clean = feedback.slice(0, LONGEST).replace(MARKS, '');
  if (!isHtml(clean)) return clean;
  return convert(clean, {
    wordwrap: false,
    limits: { maxDepth: DEEPEST, maxInputLength: LONGEST },
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
 * Stored feedback in paragraphs, each of texts and links. Nothing of it is markup: it is drawn as text.
 *
 * @example feedbackParts('Good. ⟦This⟫https://a.example⟧') // [[{ text: 'Good. ' }, { text: 'This', href: … }]]
 */
export function feedbackParts(stored: string): FeedbackPart[][] {
  return stored
    .split(/\n\s*\n/)
    .map((paragraph) => paragraph.trim())
    .filter(Boolean)
    .map(partsOf);
}

/** The same as one text, for a file. */
export function feedbackText(feedback: string | null): string | null {
  if (feedback === null) return null;
  return feedbackParts(feedback)
    .map((parts) => parts.map(({ text }) => text).join(''))
    .join('\n\n');
}
