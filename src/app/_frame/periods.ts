/** The periods that have a name, as the choices of a form. */
import type { NamedPeriod } from '@/server/request/period';

export const PERIOD_CHOICES: readonly { value: NamedPeriod; label: string }[] = [
  { value: 'today', label: 'today' },
  { value: 'yesterday', label: 'yesterday' },
  { value: 'week', label: 'this week' },
  { value: '7-days', label: 'the last 7 days' },
  { value: 'since-set', label: 'since it was set' },
  { value: 'session', label: 'this week’s session time' },
];
