/** Enrolments of OneRoster as ours. */

export interface RosterEnrolment {
  /** Of the enrolment or of its user: `tobedeleted` for what is over. */
  status: string;
  beginDate: string;
  endDate: string;
  dateLastModified: string;
}

/** The columns of a roster that say how an enrolment stands. */
export interface OwnEnrolment {
  enrolled_on: string;
  status: 'active' | 'withdrawn';
  ended_on: string;
}

const DATE = /^\d{4}-\d{2}-\d{2}/;
const dateIn = (text: string) => DATE.exec(text)?.[0] ?? '';

/**
 * How an enrolment stands on a day. One that ended before its class did has been left; one that ends with it is of somebody who
 * stayed to the end.
 *
 * @param course first and last day of the course, empty where it has none
 * @param today as 2026-11-24
 */
export function enrolmentOf(
  { status, beginDate, endDate, dateLastModified }: RosterEnrolment,
  { begins, ends }: { begins: string; ends: string },
  today: string,
): OwnEnrolment {
  const enrolled_on = dateIn(beginDate) || begins;
  const [end, modified] = [dateIn(endDate), dateIn(dateLastModified)];
  const isPast = end !== '' && end < today;
  const hasLeft = isPast && (ends === '' || end < ends);
  if (status !== 'tobedeleted' && !hasLeft) return { enrolled_on, status: 'active', ended_on: '' };
  const known = [isPast ? end : '', modified].find((day) => day !== '' && day <= today && day >= enrolled_on) ?? '';
  // Of one whose beginning nobody says, the end is all that is known.
  return { enrolled_on: enrolled_on || known, status: 'withdrawn', ended_on: known };
}
