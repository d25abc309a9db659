/** The answers that stand beside the sample files. They were worked out under older words: here alone these are known. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** Files that have an older name. */
const FILES: Readonly<Record<string, string>> = {
  progress: 'headway',
  'work-due': 'owed',
  'item-use': 'reach',
  'who-did': 'has',
};

/** Keys that have an older name. */
const KEYS: Readonly<Record<string, string>> = {
  has: 'did',
  has_not: 'did_not',
  headway: 'progress',
  if_overdue_stays_empty: 'if_missing_scores_0',
};

/** What was worked out by itself for the small sample, under the words of today. @example sampleAnswer('work-due') */
export function sampleAnswer(name: string) {
  const text = readFileSync(join(process.cwd(), 'samples', 'small', 'expected', `${FILES[name] ?? name}.json`), 'utf8');
  const rename = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(rename);
    if (value === null || typeof value !== 'object') return value;
    return Object.fromEntries(Object.entries(value).map(([key, inner]) => [KEYS[key] ?? key, rename(inner)]));
  };
  // Each test knows the shape of what it asks for.
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  return rename(JSON.parse(text)) as any;
}
