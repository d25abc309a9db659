import { describe, expect, it } from 'vitest';
import { isArguments, isWholeCall } from './action-call';

describe('the call of an action', () => {
  it.each([
    ['[]', true],
    ['["L1",{"body":"x","labels":[1,2]},null,true]', true],
    ['["$undefined",{"price":"$$5"},"$NaN","$-Infinity"]', true],
    ['', false],
    ['nonsense', false],
    ['{}', false],
    ['["$F1"]', false],
    ['["$1"]', false],
    ['["$K1"]', false],
    ['["$n12x"]', false],
    ['["$D2026"]', false],
    ['[{"toString":1}]', false],
    ['[[{"a":{"then":"x"}}]]', false],
    ['[{"__proto__":{"a":1}}]', false],
    ['['.repeat(100) + ']'.repeat(100), false],
    ['['.repeat(100_000), false],
  ])('%# is whole: its arguments are data and stand by themselves', (text, whole) => {
    expect(isArguments(text)).toBe(whole);
  });

  it('is a form that can be read, or a text, and nothing else', async () => {
    const call = (body: BodyInit, type?: string) =>
      new Request('http://a.example/', {
        method: 'POST',
        body,
        headers: { 'next-action': 'a1', ...(type ? { 'content-type': type } : {}) },
      });
    const form = new FormData();
    form.set('0', '[]');
    expect(await isWholeCall(call(form))).toBe(true);
    expect(await isWholeCall(call('[]', 'text/plain;charset=UTF-8'))).toBe(true);
    expect(await isWholeCall(call('garbage', 'multipart/form-data; boundary=x'))).toBe(false);
    expect(await isWholeCall(call(new FormData()))).toBe(false);
    expect(await isWholeCall(call('{}', 'application/json'))).toBe(false);
    expect(await isWholeCall(call('a=b', 'application/x-www-form-urlencoded'))).toBe(false);
    // A form that was sent before scripts had loaded is no call.
    const plain = (body: BodyInit, type?: string) => {
      const sent = call(body, type);
      sent.headers.delete('next-action');
      return sent;
    };
    expect(await isWholeCall(plain(form))).toBe(true);
    expect(await isWholeCall(plain('garbage', 'multipart/form-data; boundary=x'))).toBe(false);
  });
});
