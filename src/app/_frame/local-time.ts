import { offsetAt } from '@/core/time/zone';

/** An instant as a local time for a form: "2026-11-24T09:30". */
export function localTime(at: number, zone: string): string {
  return new Date(at + offsetAt(at, zone)).toISOString().slice(0, 16);
}
