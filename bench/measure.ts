/** Times of repeated work, and ratios between them. */

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
