/** What a field is called where a person reads of it; programs read its name. */
interface Fault {
  field: string;
  message: string;
}

/** Fields whose name does not say it. */
const LABELS: Readonly<Record<string, string>> = {
  body: 'Text',
  due: 'Follow up on',
  due_at: 'Due date',
  email: 'E-mail',
  from: 'First day',
  kind: 'Kind',
  learner_id: 'Learner’s id',
  preferred_channel: 'Preferred way',
  starts: 'Beginning',
  timezone: 'Time zone',
  to: 'Last day',
  url: 'Web address',
  words: 'Reason',
};

/** @example labelOf('follow_up_on') // 'Follow up on' */
export function labelOf(field: string): string {
  const label = LABELS[field] ?? field.replaceAll('_', ' ');
  return label.charAt(0).toUpperCase() + label.slice(1);
}

/**
 * What was wrong with some input, a sentence for each field.
 *
 * @example sayFaults([{ field: 'follow_up_on', message: 'lies before today' }]) // '“Follow up on” lies before today.'
 */
export function sayFaults(faults: readonly Fault[]): string {
  return faults.map(({ field, message }) => `“${labelOf(field)}” ${message}.`).join(' ');
}
