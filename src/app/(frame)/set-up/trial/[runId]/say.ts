/** What a trial found, in words. */
interface Estimate {
  value: number | null;
  low: number | null;
  high: number | null;
}

const between = ({ low, high }: Estimate, of: (value: number) => string) =>
  low === null || high === null ? '' : ` (${of(low)} to ${of(high)})`;

/** "62 % (59 to 65)". */
export function sayShare(estimate: Estimate | null): string {
  if (estimate === null || estimate.value === null) return '–';
  const whole = (value: number) => String(Math.round(100 * value));
  return `${whole(estimate.value)} %${between(estimate, whole)}`;
}

/** "6.5 days before (5 to 8)": before the last activity, or after it. */
export function sayLead(estimate: Estimate | null): string {
  if (estimate === null || estimate.value === null) return '–';
  const tenth = (value: number) => String(Math.round(10 * value) / 10);
  return `${tenth(estimate.value)} days${between(estimate, tenth)}`;
}

/** "1.52 (1.31 to 1.70)". */
export function sayRatio(estimate: Estimate | null): string {
  if (estimate === null || estimate.value === null) return '–';
  const hundredth = (value: number) => value.toFixed(2);
  return `${hundredth(estimate.value)}${between(estimate, hundredth)}`;
}

interface Measured {
  leavers: number;
  per_week: number | null;
  recall: Estimate | null;
  precision: Estimate | null;
  quiet: { recall: Estimate | null };
}

/**
 * What a trial came to, for anybody: "At 5 people a week in each course it found 46 of 100 who left, in time; 6 in 10 of those
 * it listed did leave. Quiet for 7 days found 21." Null where there is too little to say so.
 */
export function sayTrial({ leavers, per_week, recall, precision, quiet }: Measured): string | null {
  if (!recall || recall.value === null || per_week === null) return null;
  const found = (share: number) => Math.round(share * leavers);
  const week = `${Math.round(per_week * 10) / 10} people a week in each course`;
  const right =
    precision === null || precision.value === null
      ? ''
      : `; ${Math.round(10 * precision.value)} in 10 of those it listed did leave`;
  const beside =
    quiet.recall === null || quiet.recall.value === null ? '' : ` Quiet for 7 days found ${found(quiet.recall.value)}.`;
  return `At ${week} it found ${found(recall.value)} of ${leavers} who left, in time${right}.${beside}`;
}
