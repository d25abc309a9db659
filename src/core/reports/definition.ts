/** What a report is: whom it is of, a row for each what, which columns, of which days, and who may get it. */
import { DAY, dayOf, startOfDay, weekday } from '../time/zone';

/** What a row can be: each has the columns of those before it, and its own. */
export const ROWS_PER = ['learner', 'enrolment', 'item', 'session'] as const;
export type RowsPer = (typeof ROWS_PER)[number];

export const PER_WORDS: Record<RowsPer, string> = {
  learner: 'each learner',
  enrolment: 'each learner in each course',
  item: 'each learner and item',
  session: 'each learner and session',
};

/** Staff alone, or also the learner, a family or an employer. */
export const AUDIENCES = ['staff', 'outside'] as const;
export type Audience = (typeof AUDIENCES)[number];

export const AVERAGES = ['course', 'group'] as const;
export type AveragedOver = (typeof AVERAGES)[number];

/** One table, or pages for each learner. */
export const LAYOUTS = ['table', 'pages'] as const;
export type Layout = (typeof LAYOUTS)[number];

/** Rows of items and sessions that are left in: all, or some. */
export const ONLY = {
  contacted: { per: 'learner', says: 'whom somebody wrote to or called' },
  overdue: { per: 'item', says: 'overdue' },
  missing_or_late: { per: 'item', says: 'overdue, or handed in late' },
  due: { per: 'item', says: 'with a due date' },
  scored: { per: 'item', says: 'with a score' },
  required: { per: 'item', says: 'required' },
  held: { per: 'session', says: 'that have ended and were not cancelled' },
  missed: { per: 'session', says: 'missed' },
} as const satisfies Record<string, { per: RowsPer; says: string }>;
export type Only = keyof typeof ONLY;

/** Days that move with the day on which a report is made. */
export const REPORT_PERIODS = {
  '7-days': 'the last 7 days',
  '28-days': 'the last 28 days',
  'last-week': 'last week',
  'this-week': 'this week',
  'last-month': 'last month',
  'this-month': 'this month',
} as const;
export type ReportPeriod = keyof typeof REPORT_PERIODS;

/** Whom a report is of. Several parts are all held. */
export interface Whose {
  course?: string;
  group?: string;
  organisation?: string;
  /** By its number or its name. */
  caseload?: string;
  /** Learners chosen one by one, by their numbers in the database: ids may change, and may be hidden. */
  people?: number[];
  /** As the list of learners is asked: `{ quiet: '7', status: 'all' }`. */
  filter?: Record<string, string>;
}

export interface ReportDefinition {
  whose: Whose;
  per: RowsPer;
  columns: string[];
  /** Items by their ids, and categories by their names, to which rows and columns of items are cut. */
  items?: string[];
  /** Instants or dates, as they were given. */
  from?: string;
  to?: string;
  period?: ReportPeriod;
  averages?: AveragedOver;
  only?: Only;
  for: Audience;
}

/** A month's first day, some months after the one of a day. */
function monthStart(day: number, months: number): number {
  const date = new Date(day * DAY);
  return Date.UTC(date.getUTCFullYear(), date.getUTCMonth() + months, 1) / DAY;
}

/**
 * The instants of a period by name, as of an instant.
 *
 * @example periodOfReport('7-days', now, zone) // from the beginning of the day six days ago to the end of today
 */
export function periodOfReport(period: ReportPeriod, now: number, zone: string): { from: number; to: number } {
  const today = dayOf(now, zone);
  const monday = today - weekday(today);
  const [from, to] = {
    '7-days': [today - 6, today + 1],
    '28-days': [today - 27, today + 1],
    'last-week': [monday - 7, monday],
    'this-week': [monday, monday + 7],
    'last-month': [monthStart(today, -1), monthStart(today, 0)],
    'this-month': [monthStart(today, 0), monthStart(today, 1)],
  }[period];
  return { from: startOfDay(from, zone), to: startOfDay(to, zone) };
}
