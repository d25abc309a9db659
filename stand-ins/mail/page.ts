import type { Mail } from './inbox';

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

function html(text: string): string {
  return text.replace(/[&<>"']/g, (mark) => ESCAPES[mark]);
}

function frame(title: string, body: string): string {
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>${html(title)}</title>
<style>body{font:14px system-ui,sans-serif;max-width:820px;margin:24px auto;padding:0 16px;color:#14283a}
table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:6px 10px 6px 0;border-bottom:1px solid #d8e2ea}
pre{white-space:pre-wrap;font:inherit}</style><body>${body}`;
}

/** The list of mails, newest first, with a search by any part of address or subject. */
export function inboxPage(mails: readonly Mail[], q: string): string {
  const found = mails.filter((mail) => `${mail.to} ${mail.subject}`.toLowerCase().includes(q.toLowerCase()));
  const rows = [...found]
    .reverse()
    .map(
      (mail) =>
        `<tr><td>${html(mail.to)}</td><td><a href="/mail/${mail.id}">${html(mail.subject || '(no subject)')}</a></td><td>${html(mail.at.slice(0, 19).replace('T', ' '))}</td></tr>`,
    )
    .join('');
  return frame(
    'Inbox',
    `<h1>Inbox of the demo</h1><p>Every mail that Lee Shore sends arrives here and goes no further.</p>
<form><label>Find <input name="q" value="${html(q)}"></label></form>
${found.length === 0 ? '<p>No mail yet.</p>' : `<table><tr><th>To</th><th>Subject</th><th>Arrived (UTC)</th></tr>${rows}</table>`}`,
  );
}

export function messagePage(mail: Mail): string {
  return frame(
    mail.subject,
    `<p><a href="/">Inbox</a></p><h1>${html(mail.subject)}</h1><p>From ${html(mail.from)}<br>To ${html(mail.to)}</p><pre>${html(mail.text)}</pre>`,
  );
}
