import { expect, it } from 'vitest';
import { ownAddress } from './own-address';

it.each([
  ['/learners?q=a#b', '/learners?q=a#b'],
  ['https://elsewhere.example', '/watch'],
  ['//elsewhere.example', '/watch'],
  ['/\\\\elsewhere.example', '/watch'],
  ['/\t/elsewhere.example', '/watch'],
  ['javascript:alert(1)', '/watch'],
  ['learners', '/watch'],
  [undefined, '/watch'],
])('%j leads to %s', (address, leads) => expect(ownAddress(address)).toBe(leads));
