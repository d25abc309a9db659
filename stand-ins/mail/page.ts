import { frame, html } from '../page';
import type { Mail } from './inbox';

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

/** One mail, with a form to answer it as the person it went to. */
export function messagePage(mail: Mail, said: string): string {
  return frame(
    mail.subject,
    `<p><a href="/">Inbox</a></p><h1>${html(mail.subject)}</h1><p>From ${html(mail.from)}<br>To ${html(mail.to)}</p><pre>${html(mail.text)}</pre>
<hr>${said ? `<p role="status"><strong>${html(said)}</strong></p>` : ''}
<h2>Answer as this learner</h2>
<form method="post" action="/mail/${mail.id}/answer"><p><label>Text<br><textarea name="text" rows="5" required></textarea></label></p>
<p><label><input type="checkbox" name="elsewhere" value="yes"> from another address, without a reference to this mail</label></p>
<button>Send the answer</button></form>
<h2>Or let it bounce</h2>
<form method="post" action="/mail/${mail.id}/bounce"><button>Report that the mailbox is unknown</button></form>`,
  );
}
