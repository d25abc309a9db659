/** What the stand-ins' small pages have in common. */
import type { IncomingMessage, ServerResponse } from 'node:http';

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

export function html(text: string): string {
  return text.replace(/[&<>"']/g, (mark) => ESCAPES[mark]);
}

export function frame(title: string, body: string): string {
  return `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>${html(title)}</title>
<style>body{font:14px system-ui,sans-serif;max-width:820px;margin:24px auto;padding:0 16px;color:#14283a}
table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:6px 10px 6px 0;border-bottom:1px solid #d8e2ea}
pre{white-space:pre-wrap;font:inherit}textarea{width:100%;font:inherit}button{font:inherit;padding:4px 12px}</style><body>${body}`;
}

export function send(response: ServerResponse, status: number, type: string, body: string): void {
  response.writeHead(status, {
    'content-type': `${type}; charset=utf-8`,
    'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
  });
  response.end(body);
}

/** A request's body as text, up to a megabyte. */
export async function bodyOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > 1_000_000) throw new Error('too large');
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}
