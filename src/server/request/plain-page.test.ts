import { describe, expect, it } from 'vitest';
import { escapeHtml, plainPage } from './plain-page';

describe('a page for somebody who does not sign in', () => {
  it('shows a text as it is, whatever it holds', async () => {
    const says = [`<script>alert("1")</script> & 'more'`];
    const answer = plainPage({ title: '<b>', says, button: '"><i>' });
    const html = await answer.text();
    expect(html).not.toMatch(/<script|<b>|<i>/);
    expect(html).toContain(escapeHtml(says[0]));
    expect(escapeHtml(`&<>"'`)).toBe('&amp;&lt;&gt;&quot;&#39;');
  });

  it('runs nothing, is kept by nobody, and tells no other site where it is', () => {
    const { headers, status } = plainPage({ title: 'Gone', says: [] }, 404);
    expect(status).toBe(404);
    expect(headers.get('content-security-policy')).toContain("default-src 'none'");
    expect(headers.get('cache-control')).toContain('no-store');
    expect(headers.get('referrer-policy')).toBe('no-referrer');
    expect(headers.get('x-robots-tag')).toContain('noindex');
  });

  it('has a button only where there is something to press', async () => {
    expect(await plainPage({ title: 'x', says: ['y'] }).text()).not.toContain('<form');
    expect(await plainPage({ title: 'x', says: ['y'], button: 'Open' }).text()).toContain('method="post"');
  });
});
