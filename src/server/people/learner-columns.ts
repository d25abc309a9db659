/** The columns of the Learners list: what each is called, says on the page, and holds in a file and the API. */
import { bandWord } from '@/core/drift/bands';
import type { Band } from '@/core/drift/bands';
import { daysQuiet } from '@/core/access/last-access';
import { fullName } from '@/core/people/name';
import { sayCount, sayDay, sayDaysAgo, sayInstant, sayLength } from '@/core/time/words';
import { HOUR, dateOfDay, dayOf } from '@/core/time/zone';
import type { LearnerRow } from '@/data/people/learners';
import { isoOrNull, minutes, score } from '../request/values';
import type { Column } from '../request/list';

/** Time online is an estimate: from ten hours on, minutes would only look exact. */
function roughly(ms: number): number {
  return ms < 10 * HOUR ? ms : Math.round(ms / HOUR) * HOUR;
}

function sayQuiet(days: number | null): string {
  if (days === null) return '–';
  return days === 0 ? 'today' : `quiet ${sayCount(days, 'day')}`;
}

export const LEARNER_LIST_COLUMNS = {
  learner_id: { title: 'Id', sort: 'learner_id', isKey: true, figures: { learner_id: (row) => row.learner_id } },
  name: { title: 'Learner', sort: 'name', isKey: true, figures: { name: (row) => fullName(row) } },
  email: {
    title: 'E-mail',
    sort: 'email',
    says: (row) => row.email ?? '',
    figures: { email: (row) => row.email },
  },
  phone: {
    title: 'Phone',
    sort: 'phone',
    as: 'phone',
    says: (row) => row.phone ?? '',
    figures: { phone: (row) => row.phone },
  },
  organisation: {
    title: 'Organisation',
    sort: 'organisation',
    as: 'any direction',
    says: (row) => row.organisation ?? 'on their own',
    figures: { organisation: (row) => row.organisation },
  },
  courses: {
    title: 'Courses',
    sort: 'courses',
    says: (row) => row.courses.join(', '),
    figures: { courses: (row) => row.courses },
  },
  last_access: {
    title: 'Last access',
    sort: 'last_access',
    says: (row, { now, zone }) => (row.last_at === null ? 'never' : sayInstant(row.last_at, zone, now)),
    figures: { last_access: (row) => isoOrNull(row.last_at) },
  },
  days_quiet: {
    title: 'Days quiet',
    sort: 'days_quiet',
    says: (row, { now, zone }) => sayQuiet(daysQuiet(row.last_at, now, zone)),
    figures: { days_quiet: (row, { now, zone }) => daysQuiet(row.last_at, now, zone) },
  },
  minutes_online: {
    title: 'Time online',
    sort: 'minutes_online',
    says: (row) => (row.ms === 0 ? 'no time' : `about ${sayLength(roughly(row.ms))}`),
    figures: { minutes_online: (row) => minutes(row.ms) },
  },
  drift: {
    title: 'Drift',
    sort: 'drift',
    as: 'gauge',
    says: (row) => (row.score === null ? 'no reading' : String(Math.round(row.score))),
    figures: { drift: (row) => score(row.score), band: (row) => bandWord(row.band) },
  },
  overdue: {
    title: 'Overdue',
    sort: 'overdue',
    says: (row) => (row.overdue === null ? '–' : row.overdue === 0 ? 'nothing overdue' : `${row.overdue} overdue`),
    figures: { overdue: (row) => row.overdue },
  },
  enrolled: {
    title: 'Enrolled',
    sort: 'enrolled',
    says: (row, { now, zone }) => sayDay(row.enrolled_day, dayOf(now, zone)),
    figures: { enrolled_on: (row) => dateOfDay(row.enrolled_day) },
  },
  last_contact: {
    title: 'Last contact',
    sort: 'last_contact',
    says: (row, { now, zone }) => (row.contact_at === null ? 'no contact' : sayDaysAgo(row.contact_at, now, zone)),
    figures: { last_contact: (row) => isoOrNull(row.contact_at) },
  },
} as const satisfies Record<string, Column<LearnerRow>>;

export type ListColumn = keyof typeof LEARNER_LIST_COLUMNS;

/** Columns that stand over each other in one cell, so that a whole learner fits on a row beside the panel. */
export const CELLS: readonly (readonly ListColumn[])[] = [
  ['organisation', 'courses'],
  ['drift', 'overdue'],
  ['last_access', 'days_quiet'],
  ['minutes_online', 'last_contact'],
  ['enrolled'],
  ['phone', 'email'],
];

/** Columns shown until somebody chooses their own. */
export const USUAL_COLUMNS: readonly ListColumn[] = CELLS.flat().filter((name) => name !== 'enrolled');

/** A learner of the list in words: plain data, the same for the first rows and those that come later. */
export interface LearnerLine {
  id: number;
  learnerId: string;
  /** Has no roster told of them yet? Left out for whoever is in one. */
  isProvisional?: boolean;
  name: string;
  score: number | null;
  band: Band | null;
  /** What each column says, in the order of the list's `columnNames`: their names once, not in every line. */
  cells: string[];
}

/** What is in a line beside its cells. */
export function personOfLine(row: LearnerRow): Omit<LearnerLine, 'cells'> {
  return {
    id: row.id,
    learnerId: row.learner_id,
    ...(row.provisional === 1 && { isProvisional: true }),
    name: fullName(row),
    score: row.score === null ? null : Math.round(row.score * 10) / 10,
    band: row.band,
  };
}
