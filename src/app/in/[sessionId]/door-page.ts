/** The learner's page of a check-in, as plain HTML: it has to work on any telephone, without a script. */
import type { CheckInAnswer } from '@/server/sessions/check-in';

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

function html(text: string): string {
  return text.replace(/[&<>"']/g, (mark) => ESCAPES[mark]);
}

const STYLE = `body{margin:0;background:#fcfbf6;color:#14283a;font:18px/1.45 system-ui,sans-serif}
main{max-width:420px;margin:0 auto;padding:24px 18px}h1{font-size:22px;margin:0 0 4px}p{margin:0 0 16px}
label{display:block;margin:14px 0 4px;font-weight:600}input{box-sizing:border-box;width:100%;padding:12px;font:inherit;border:1px solid #50657a;border-radius:4px;background:#fff;color:#14283a}
button{width:100%;margin-top:18px;padding:14px;font:inherit;font-weight:700;color:#fff;background:#12344d;border:0;border-radius:4px}
.name{background:none;color:inherit;border:1px solid #50657a;margin-top:6px;text-align:start;font-weight:400}.in{padding:18px;background:#dcebf3;font-size:26px;font-weight:700}.no{padding:14px;background:#f3e7c6;border-left:4px solid #a8246a}
@media (prefers-color-scheme:dark){body{background:#0e1c28;color:#e3ecf3}input{background:#122432;color:#e3ecf3}.in{background:#16303f}.no{background:#443a1d}button{background:#2f6f9a}}`;

function frame(title: string, body: string, nonce: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>${html(title)}</title><style nonce="${html(nonce)}">${STYLE}</style></head><body><main>${body}</main></body></html>`;
}

interface Door {
  title: string;
  course: string;
  time: string;
}

/** The names of those expected, each a button: for somebody whose code was right and who does not know their id. */
function namesToChoose({ choices = [], pass = '' }: CheckInAnswer): string {
  if (choices.length === 0) return '';
  const buttons = choices
    .map(
      ({ choice, name }) =>
        `<button class="name" name="choice" value="${html(choice)}"><bdi>${html(name)}</bdi></button>`,
    )
    .join('');
  return `<form method="post"><input type="hidden" name="pass" value="${html(pass)}"><p>Your code was right. Is one of these you?</p>${buttons}</form>`;
}

/** @param filled what was typed before, so that nobody types it twice */
export function doorPage(door: Door, said: CheckInAnswer | null, filled: string, nonce: string): string {
  const head = `<h1>${html(door.title)}</h1><p>${html(door.course)}<br>${html(door.time)}</p>`;
  if (said?.ok) return frame('You are in', `${head}<p class="in" role="status">${html(said.says)}</p>`, nonce);
  const why = said ? `<p class="no" role="alert">${html(said.says)}</p>` : '';
  const form = `<form method="post"><label for="who">Your learner id, e-mail or name</label>
<input id="who" name="who" maxlength="320" autocomplete="username" autocapitalize="none" spellcheck="false" value="${html(filled)}">
<label for="code">The six digits on the screen</label>
<input id="code" name="code" required inputmode="numeric" pattern="[0-9 ]*" maxlength="8" autocomplete="one-time-code">
<button>I am here</button></form>`;
  return frame('Check in', head + why + (said ? namesToChoose(said) : '') + form, nonce);
}

export function noDoorPage(nonce: string): string {
  return frame(
    'Check in',
    '<h1>No such session</h1><p>Scan the code on the screen again, or ask whoever gives the session.</p>',
    nonce,
  );
}
