/** A page for somebody who does not sign in: a few sentences and perhaps one button, without script, kept by nobody. */

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** A text as HTML shows it. @example escapeHtml('a < b') // 'a &lt; b' */
export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (letter) => ESCAPES[letter]);
}

const STYLE = `:root{color-scheme:light dark}
body{font:17px/1.5 system-ui,sans-serif;max-width:34rem;margin:12vh auto 2rem;padding:0 1.25rem}
h1{font-size:1.35rem;line-height:1.3}
input{font:inherit;min-height:44px;padding:.2rem .6rem;inline-size:100%;box-sizing:border-box}
button{font:inherit;min-height:44px;padding:.4rem 1.1rem;border-radius:6px;border:1px solid #1c5a7d;background:#1c5a7d;color:#fff;cursor:pointer}
button:focus-visible{outline:3px solid #e0a11b;outline-offset:2px}`;

export interface PlainPage {
  title: string;
  /** Paragraphs, as plain text. */
  says: readonly string[];
  /** What is asked for beside the press. */
  field?: { name: string; label: string; type: 'date' | 'text' };
  /** What a press on it sends to the same address. */
  button?: string;
  /** Where one goes on from here. */
  link?: { href: string; label: string };
  /** What the press sends beside it. */
  hidden?: Readonly<Record<string, string>>;
}

/** The page as an answer. */
export function plainPage({ title, says, field, button, link, hidden = {} }: PlainPage, status = 200): Response {
  const paragraphs = says.map((text) => `<p>${escapeHtml(text)}</p>`).join('\n');
  const asked = field
    ? `<p><label>${escapeHtml(field.label)}<br><input name="${field.name}" type="${field.type}" maxlength="500" required></label></p>`
    : '';
  const kept = Object.entries(hidden)
    .map(([name, value]) => `<input type="hidden" name="${escapeHtml(name)}" value="${escapeHtml(value)}">`)
    .join('');
  const form = button
    ? `<form method="post">${kept}${asked}<button type="submit">${escapeHtml(button)}</button></form>`
    : '';
  const onward = link ? `<p><a href="${escapeHtml(link.href)}">${escapeHtml(link.label)}</a></p>` : '';
  const html = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeHtml(title)}</title><style>${STYLE}</style></head>
<body><main><h1>${escapeHtml(title)}</h1>
${paragraphs}
${form}${onward}</main></body></html>`;
  return new Response(html, {
    status,
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'content-security-policy':
        "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
      'cache-control': 'private, no-store',
      'referrer-policy': 'no-referrer',
      'x-robots-tag': 'noindex, nofollow',
    },
  });
}
