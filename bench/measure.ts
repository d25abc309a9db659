/** Times of repeated work, memory of a process, and ratios between them. */
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Runtime } from '@/server/runtime';

export async function timed<T>(work: () => T | Promise<T>): Promise<{ ms: number; value: T }> {
  const began = performance.now();
  const value = await work();
  return { ms: performance.now() - began, value };
}

export function percentile(values: readonly number[], p: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))];
}

export async function repeat(times: number, work: () => Promise<unknown>): Promise<number[]> {
  const spent: number[] = [];
  for (let i = 0; i < times; i += 1) spent.push((await timed(work)).ms);
  return spent;
}

/** Prints a ratio beside what it may be. */
export function report(name: string, ratio: number, most: number, details: string): void {
  console.log(`${ratio <= most ? 'ok  ' : 'OVER'} ${name}: ${ratio.toFixed(2)}× (at most ${most}×) · ${details}`);
}

/** Peak memory in MB of a process that does one thing from the command line on a data folder. */
export async function peakOf(
  runtime: Pick<Runtime, 'settings' | 'clock'>,
  command: readonly string[],
): Promise<number> {
  const child = spawn('node', ['dist/lee.mjs', ...command], {
    env: {
      ...process.env,
      LEESHORE_DATA_DIR: runtime.settings.dataDir,
      LEESHORE_NOW: new Date(runtime.clock.now()).toISOString(),
      LEESHORE_LOG: 'warn',
      // Mapped pages of the database are the system's.
      LEESHORE_MAPPED_MB: '0',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  child.stdout.resume();
  let peak = 0;
  const timer = setInterval(() => {
    try {
      const line = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'));
      peak = Math.max(peak, Number(line?.[1] ?? 0) / 1000);
    } catch {
      // It has ended.
    }
  }, 100);
  const code = await new Promise((resolve) => child.on('exit', resolve));
  clearInterval(timer);
  if (code !== 0) throw new Error(`lee ${command.join(' ')} ended with ${String(code)}`);
  return peak;
}
