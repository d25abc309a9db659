import { describe, expect, it } from 'vitest';
import { isPrivateAddress } from './private';

describe('private addresses', () => {
  it.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.31.0.1',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '255.255.255.255',
  ])('of the older kind: %s', (address) => expect(isPrivateAddress(address)).toBe(true));
  it.each([
    '::1',
    '::',
    'fe80::1',
    'fd00::1',
    'ff02::1',
    '::ffff:10.0.0.1',
    '::ffff:127.0.0.1',
    '64:ff9b::7f00:1',
    '2002:7f00:1::',
  ])('of the newer kind: %s', (address) => expect(isPrivateAddress(address)).toBe(true));
  it.each(['8.8.8.8', '172.32.0.1', '100.128.0.1', '2a00:1450::1'])('are not out in the world: %s', (address) =>
    expect(isPrivateAddress(address)).toBe(false),
  );
  it('are also what is no address', () => expect(isPrivateAddress('house.example')).toBe(true));
});
