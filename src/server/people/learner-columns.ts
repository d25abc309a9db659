/** The columns of the Learners list: which there are, which somebody chose, and the rows in words. */
import { daysQuiet } from '@/core/access/last-access';
import type { Band } from '@/core/drift/types';
import { sayCount, sayDaysAgo, sayInstant, sayLength } from '@/core/time/words';
import { HOUR } from '@/core/time/zone';
import type { LearnerRow } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { readStaffSetting, writeStaffSetting } from '@/data/settings';
import { fullName } from '@/core/people/name';
import type { View } from '@/data/view';
import { isoOrNull, learnerFigures } from '../request/figures';
import type { Runtime } from '../runtime';

export const LIST_COLUMNS = {
  organisation: { title: 'Organisation', sort: 'organisation', fields: ['organisation'] },
  courses: { title: 'Courses', sort: 'courses', fields: ['courses'] },
  drift: { title: 'Drift', sort: 'drift', fields: ['drift', 'band'] },
  last_access: { title: 'Last access', sort: 'last_access', fields: ['last_access'] },
  days_quiet: { title: 'Days quiet', sort: 'days_quiet', fields: ['days_quiet'] },
  minutes_online: { title: 'Time online', sort: 'minutes_online', fields: ['minutes_online'] },
  last_contact: { title: 'Last contact', sort: 'last_contact', fields: ['last_contact'] },
  phone: { title: 'Phone', sort: 'phone', fields: ['phone'] },
  email: { title: 'E-mail', sort: 'email', fields: ['email'] },
} as const;
export type ListColumn = keyof typeof LIST_COLUMNS;
export const LIST_COLUMN_NAMES = Object.keys(LIST_COLUMNS) as ListColumn[];

/** Columns that stand over each other in one cell, so that a whole learner fits on a row beside the panel. */
export const CELLS: readonly (readonly ListColumn[])[] = [
  ['organisation', 'courses'],
  ['drift'],
  ['last_access', 'days_quiet'],
  ['minutes_online', 'last_contact'],
  ['phone', 'email'],
];

/** Columns read from a link or a setting, in the list's own order; the usual ones when it names none. */
export function readColumns(text: string | null | undefined): ListColumn[] {
  const wanted = (text ?? '').split(',');
  const columns = LIST_COLUMN_NAMES.filter((name) => wanted.includes(name));
  return columns.length > 0 ? columns : [...LIST_COLUMN_NAMES];
}

const SETTING = 'learner_columns';

export async function chosenColumns({ db }: Runtime, viewer: Viewer): Promise<ListColumn[]> {
  return readColumns(await readStaffSetting(db, viewer.staffId, SETTING));
}

export async function chooseColumns({ db }: Runtime, viewer: Viewer, columns: readonly string[]): Promise<void> {
  await writeStaffSetting(db, viewer.staffId, SETTING, readColumns(columns.join(',')).join(','));
}

/** A learner of the list in words: plain data, the same for the first rows and those that come later. */
export interface LearnerLine {
  id: number;
  learnerId: string;
  name: string;
  score: number | null;
  band: Band | null;
  /** What each column says, in the order of LIST_COLUMN_NAMES: their names once, not in every line. */
  cells: string[];
}

/** Time online is an estimate: from ten hours on, minutes would only look exact. */
function roughly(ms: number): number {
  return ms < 10 * HOUR ? ms : Math.round(ms / HOUR) * HOUR;
}

function sayQuiet(days: number | null): string {
  if (days === null) return '–';
  return days === 0 ? 'today' : `quiet ${sayCount(days, 'day')}`;
}

export function lineOf({ zone }: Pick<Runtime, 'zone'>, view: View, row: LearnerRow): LearnerLine {
  const { now } = view;
  const says: Record<ListColumn, string> = {
    organisation: row.organisation ?? 'on their own',
    courses: row.courses.join(', '),
    drift: row.score === null ? 'no reading' : String(Math.round(row.score)),
    last_access: row.last_at === null ? 'never' : sayInstant(row.last_at, zone, now),
    days_quiet: sayQuiet(daysQuiet(row.last_at, now, zone)),
    minutes_online: row.ms === 0 ? 'no time' : `about ${sayLength(roughly(row.ms))}`,
    last_contact: row.contact_at === null ? 'no contact' : sayDaysAgo(row.contact_at, now, zone),
    phone: row.phone ?? '',
    email: row.email ?? '',
  };
  return {
    id: row.id,
    learnerId: row.learner_id,
    name: fullName(row),
    score: row.score === null ? null : Math.round(row.score * 10) / 10,
    band: row.band,
    cells: LIST_COLUMN_NAMES.map((name) => says[name]),
  };
}

/** The list's rows as a file has them, and the headings of the columns shown. */
export function fileOf(runtime: Runtime, view: View, rows: readonly LearnerRow[], columns: readonly ListColumn[]) {
  const headings = ['name', 'learner_id', ...columns.flatMap((name) => [...LIST_COLUMNS[name].fields])];
  return {
    headings,
    rows: rows.map((row) => ({
      ...learnerFigures(view.now, runtime.zone, row),
      last_contact: isoOrNull(row.contact_at),
    })),
  };
}
