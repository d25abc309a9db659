/** Figures of a trial in words. */
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
