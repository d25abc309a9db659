/** Addresses of the network that are nobody's out in the world: this machine's, the house's, and those set aside. */
import { BlockList, isIP, isIPv4 } from 'node:net';

const PRIVATE = new BlockList();
const V4 = [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.0.2.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['198.51.100.0', 24],
  ['203.0.113.0', 24],
  ['224.0.0.0', 4],
  ['240.0.0.0', 4],
] as const;
// Those that carry an address of the older kind in them may lead anywhere in the house.
const V6 = [
  ['::', 96],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['100::', 64],
  ['2001::', 32],
  ['2001:db8::', 32],
  ['2002::', 16],
  ['fc00::', 7],
  ['fe80::', 10],
  ['fec0::', 10],
  ['ff00::', 8],
] as const;
for (const [net, prefix] of V4) PRIVATE.addSubnet(net, prefix, 'ipv4');
for (const [net, prefix] of V6) PRIVATE.addSubnet(net, prefix, 'ipv6');

/**
 * Is an IP address a private one? What is no IP address counts as private.
 *
 * @example isPrivateAddress('::ffff:10.0.0.1') // true
 */
export function isPrivateAddress(address: string): boolean {
  if (isIP(address) === 0) return true;
  return PRIVATE.check(address, isIPv4(address) ? 'ipv4' : 'ipv6');
}
