import { expect, it } from 'vitest';
import { sayAgent } from './agent';

it.each([
  ['Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0', 'Firefox on Linux'],
  [
    'Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/156.0 Safari/537.36 Edg/156.0',
    'Edge on Windows',
  ],
  [
    'Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/156.0 Mobile Safari/537.36',
    'Chrome on Android',
  ],
  [
    'Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1 Version/18.0 Safari/604.1',
    'Safari on an iPhone',
  ],
  ['', 'A browser'],
  ['<script>', 'A browser'],
])('%j is %s', (agent, says) => expect(sayAgent(agent)).toBe(says));
