import { describe, expect, it } from 'vitest';
import { choiceOf, isPass, networkOf, passOf, readDevice, signDevice } from './door';

describe('a device at the door', () => {
  it('is known by what the door gave it, and by nothing made up', () => {
    const cookie = signDevice('key', 'abc', 1000);
    expect(readDevice('key', cookie)).toEqual({ id: 'abc', since: 1000 });
    expect(readDevice('other key', cookie)).toBeNull();
    for (const made of [
      undefined,
      '',
      'abc',
      'abc.1000',
      'abc.1000.x',
      cookie.replace('abc', 'abd'),
      cookie.replace('1000', '1'),
    ])
      expect(readDevice('key', made)).toBeNull();
  });

  it('may choose a name for two minutes after the right code', () => {
    const pass = passOf('secret', 'abc', 1000);
    expect([1000, 121_000, 121_001, 999].map((now) => isPass('secret', 'abc', pass, now))).toEqual([
      true,
      true,
      false,
      false,
    ]);
    expect(isPass('secret', 'other', pass, 1000)).toBe(false);
    expect(isPass('another', 'abc', pass, 1000)).toBe(false);
    expect(isPass('secret', 'abc', '', 1000)).toBe(false);
    expect(choiceOf('secret', 1)).not.toBe(choiceOf('another', 1));
  });

  it('comes from a network: the /64 of IPv6, the address of IPv4', () => {
    expect(['2001:db8:1:2:3::9', '2001:DB8:1:2::', '2001:0db8:1:2:ffff:1:2:3'].map(networkOf)).toEqual(
      Array(3).fill('2001:db8:1:2::/64'),
    );
    expect(networkOf('2001:db8::1')).toBe('2001:db8:0:0::/64');
    expect(['192.0.2.1', '::ffff:192.0.2.1', 'local'].map(networkOf)).toEqual(['192.0.2.1', '192.0.2.1', 'local']);
  });
});
