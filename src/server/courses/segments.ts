import type { SegmentChoice } from '@/data/courses/segments';

/** The names of the parts of a kind, as choices of a form: `DRY` or `DRY/A` with what it is called. */
export function namesOfKind(choices: readonly SegmentChoice[], kind: 'course' | 'group' | 'organisation') {
  return choices
    .filter(({ key }) => key.startsWith(`${kind}:`))
    .map(({ key, label }) => ({ value: key.slice(kind.length + 1), label }));
}
