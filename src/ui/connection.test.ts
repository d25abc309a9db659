import { describe, expect, it } from 'vitest';
import { NoConnection, overConnection } from './connection';

const PAGE = { headers: { rsc: '1' } };
const failed = () => Promise.reject(new TypeError('Failed to fetch'));

/** A connection whose tries come to this, one after another; the waits between are counted, and not waited. */
function overTries(...tries: (() => Promise<Response>)[]) {
  const waited: number[] = [];
  const left = [...tries];
  const told: boolean[] = [];
  const over = overConnection(
    () => left.shift()!(),
    async (after) => void waited.push(after),
  );
  over.subscribe(() => told.push(over.isLost()));
  return { ...over, waited, told, left };
}

describe('a connection that comes and goes', () => {
  it('asks for a page until it is there, and says meanwhile that the connection is lost', async () => {
    const over = overTries(failed, failed, async () => new Response('here', { status: 200, statusText: 'OK' }));
    const answer = await over.fetch('/watch', PAGE);
    expect(await answer.text()).toBe('here');
    expect(over.waited).toEqual([0, 1]);
    expect(over.told).toEqual([true, false]);
  });

  it('asks anew for a page that broke off', async () => {
    const half = new ReadableStream({
      pull: (to) => to.error(new TypeError('network error')),
    });
    const over = overTries(
      async () => new Response(half),
      async () => new Response('whole'),
    );
    expect(await (await over.fetch('/watch', PAGE)).text()).toBe('whole');
  });

  it('keeps what the router goes by', async () => {
    const from = Object.defineProperties(new Response(null, { status: 204, headers: { vary: 'rsc' } }), {
      url: { value: 'http://127.0.0.1/sign-in' },
      redirected: { value: true },
    });
    const { url, redirected, status, headers, body } = await overTries(async () => from).fetch('/watch', PAGE);
    expect({ url, redirected, status, vary: headers.get('vary'), body }).toEqual({
      url: 'http://127.0.0.1/sign-in',
      redirected: true,
      status: 204,
      vary: 'rsc',
      body: null,
    });
  });

  it('never sends a deed twice: it fails, and says why', async () => {
    const over = overTries(failed, async () => new Response());
    await expect(over.fetch('/watch', { method: 'POST', headers: { 'next-action': 'a1' } })).rejects.toThrow(
      NoConnection,
    );
    expect(over.left).toHaveLength(1);
    expect(over.isLost()).toBe(true);
  });

  it('leaves a page fetched ahead, and what the screens ask for themselves, to who asked', async () => {
    const over = overTries(failed, failed);
    await expect(over.fetch('/watch', { headers: { ...PAGE.headers, 'next-router-prefetch': '1' } })).rejects.toThrow(
      TypeError,
    );
    await expect(over.fetch('/pulse')).rejects.toThrow(TypeError);
    expect(over.waited).toEqual([]);
  });

  it('takes a request that was called off for no loss, nor an answer that says no', async () => {
    const over = overTries(
      () => Promise.reject(new DOMException('aborted', 'AbortError')),
      async () => new Response('no', { status: 503 }),
    );
    await expect(over.fetch('/watch', PAGE)).rejects.toThrow('aborted');
    expect((await over.fetch('/watch', PAGE)).status).toBe(503);
    expect(over.told).toEqual([]);
  });

  it('tells no more who has ended it', async () => {
    const over = overTries(failed, failed);
    const told: boolean[] = [];
    over.subscribe(() => told.push(over.isLost()))();
    await over.fetch('/pulse').catch(() => null);
    expect(told).toEqual([]);
  });
});
