import { expect, it } from 'vitest';
import { sayTrial } from './say';

const share = (value: number | null) => ({ value, low: null, high: null });

it('a trial is said in one sentence that anybody understands', () => {
  const measured = {
    leavers: 100,
    per_week: 5.04,
    recall: share(0.46),
    precision: share(0.6),
    quiet: { recall: share(0.21) },
  };
  expect(sayTrial(measured)).toBe(
    'At 5 people a week in each course it found 46 of 100 who left, in time; 6 in 10 of those it listed did leave. Quiet for 7 days found 21.',
  );
  expect(sayTrial({ ...measured, precision: null, quiet: { recall: null } })).toBe(
    'At 5 people a week in each course it found 46 of 100 who left, in time.',
  );
  expect(sayTrial({ ...measured, recall: null })).toBeNull();
  expect(sayTrial({ ...measured, recall: share(null) })).toBeNull();
});
