/**
 * The Shoreline of 5,000 dots in Chromium: scripting time of its layout and painting, against an
 * SVG of 5,000 plain circles in the same page. And what the Watch sends of JavaScript.
 */
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { gzipSync } from 'node:zlib';
import { chromium, type Page } from '@playwright/test';
import { build } from 'esbuild';
import { percentile, report } from './measure';

const DOTS = 5000;
const ROUNDS = 30;
const BUDGET = 1000 / 60;

/** The page's own code: both drawings, over and over, each timed in its own turn. */
const PAGE = `
import { layOut } from './src/core/drift/shoreline.ts';
import { paintDots } from './src/ui/paint-dots.ts';
const people = Array.from({ length: ${DOTS} }, (_, id) => {
  const score = id % 40 === 0 ? null : (id * 37) % 101;
  return { id, score, weekAgo: score === null ? null : (score + id % 23) % 101, band: score === null ? null : score >= 65 ? 2 : score >= 40 ? 1 : 0 };
});
const size = { width: 1000, height: 74, ashore: 90, radius: 2 };
const canvas = document.querySelector('canvas');
const host = document.querySelector('#svg');
window.shoreline = () => {
  const began = performance.now();
  paintDots(canvas, layOut(people, size), { width: 1000, height: 74, ashore: 90, radius: 2 }, null);
  return performance.now() - began;
};
window.circles = () => {
  const began = performance.now();
  const svg = document.createElementNS('http://www.w3.org/2000/svg', 'svg');
  for (let i = 0; i < ${DOTS}; i += 1) {
    const circle = document.createElementNS('http://www.w3.org/2000/svg', 'circle');
    circle.setAttribute('cx', String((i * 37) % 1000));
    circle.setAttribute('cy', String(i % 74));
    circle.setAttribute('r', '2');
    svg.append(circle);
  }
  host.replaceChildren(svg);
  return performance.now() - began;
};
`;

export async function benchShoreline(): Promise<void> {
  const { outputFiles } = await build({
    stdin: { contents: PAGE, resolveDir: process.cwd(), loader: 'ts' },
    bundle: true,
    write: false,
    format: 'iife',
    alias: { '@': './src' },
  });
  const html = `<!doctype html><style>:root{--band-0:#1e5b86;--band-1:#a9782a;--band-2:#a8246a;--band-none:#8a97a3;--text:#14283a}</style>
<canvas></canvas><div id="svg"></div><script>${outputFiles[0].text}</script>`;
  const server = createServer((_, response) => response.setHeader('content-type', 'text/html').end(html));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const executablePath = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(existsSync);
  const browser = await chromium.launch({
    executablePath,
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage();
    await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    const [ours, plain] = await inTurns(page);
    report(
      `Shoreline of ${DOTS} dots, scripting, against an SVG of as many circles`,
      ours / plain,
      1,
      `${ours.toFixed(1)} ms against ${plain.toFixed(1)} ms; a frame has ${BUDGET.toFixed(1)} ms`,
    );
  } finally {
    await browser.close();
    server.close();
  }
  await watchJavaScript();
}

async function inTurns(page: Page): Promise<[number, number]> {
  const spent: [number[], number[]] = [[], []];
  for (let i = 0; i < ROUNDS; i += 1) {
    spent[0].push(await page.evaluate('window.shoreline()'));
    spent[1].push(await page.evaluate('window.circles()'));
  }
  return [percentile(spent[0].slice(5), 0.5), percentile(spent[1].slice(5), 0.5)];
}

/** Sums the scripts that the built Watch names, compressed as a server would. */
async function watchJavaScript(): Promise<void> {
  const manifest = '.next/server/app/(frame)/watch/page_client-reference-manifest.js';
  if (!existsSync(manifest)) return console.log('The Watch’s JavaScript is measured on a build: npm run build first.');
  const text = await readFile(manifest, 'utf8');
  const root: { rootMainFiles: string[]; polyfillFiles: string[] } = JSON.parse(
    await readFile('.next/build-manifest.json', 'utf8'),
  );
  const named = [...text.matchAll(/static\/chunks\/[^"\\]+\.js/g)].map((match) => match[0]);
  const files = [...new Set([...root.rootMainFiles, ...named])];
  const sizes = await Promise.all(
    files.map(async (file) => ({ file, size: gzipSync(await readFile(`.next/${file}`)).length })),
  );
  sizes.sort((a, b) => b.size - a.size);
  const total = sizes.reduce((sum, one) => sum + one.size, 0) / 1000;
  report(
    'JavaScript of the Watch, compressed, of 350 kB',
    total / 350,
    1,
    `${total.toFixed(0)} kB in ${sizes.length} files`,
  );
  for (const { file, size } of sizes.slice(0, 6))
    console.log(`     ${(size / 1000).toFixed(0).padStart(4)} kB ${file}`);
}
