/** What a browser calls itself, in words that its owner knows it by. */

const BROWSERS: readonly (readonly [name: string, sign: RegExp])[] = [
  ['Edge', /Edg(e|A|iOS)?\//],
  ['Opera', /OPR\//],
  ['Firefox', /(Firefox|FxiOS)\//],
  ['Chrome', /(Chrome|CriOS|Chromium)\//],
  ['Safari', /Safari\//],
];
const SYSTEMS: readonly (readonly [name: string, sign: RegExp])[] = [
  ['Android', /Android/],
  ['an iPhone', /iPhone/],
  ['an iPad', /iPad/],
  ['Windows', /Windows/],
  ['a Mac', /Mac OS X|Macintosh/],
  ['Linux', /Linux|X11/],
];

/**
 * @param agent the User-Agent header (RFC 9110, 10.1.5), which may hold anything
 * @example sayAgent('Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0') // 'Firefox on Linux'
 */
export function sayAgent(agent: string): string {
  const browser = BROWSERS.find(([, sign]) => sign.test(agent))?.[0] ?? 'A browser';
  const system = SYSTEMS.find(([, sign]) => sign.test(agent))?.[0];
  return system ? `${browser} on ${system}` : browser;
}
