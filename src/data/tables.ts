/**
 * The tables of the database as they stand after all migrations: what Knex's rows are checked against. Each subject declares
 * its own; a test holds them all against the schema itself, and queries whose columns stand as text are held by the tests that
 * run them.
 *
 * Times are epoch milliseconds (UTC), days are day numbers in the programme's time zone, yes and no are 1 and 0.
 */
import { ACCESS_TABLES } from './access/tables';
import { COMPLETION_TABLES } from './completion/tables';
import { CONTACT_TABLES } from './contact/tables';
import { COURSES_TABLES } from './courses/tables';
import { DRIFT_TABLES } from './drift/tables';
import { FEED_TABLES } from './feed/tables';
import { GRADES_TABLES } from './grades/tables';
import { IMPORTS_TABLES } from './imports/tables';
import { PEOPLE_TABLES } from './people/tables';
import { POSTS_TABLES } from './posts/tables';
import { ITEM_USE_TABLES } from './item-use/tables';
import { PRIVACY_TABLES } from './privacy/tables';
import { REPORTS_TABLES } from './reports/tables';
import { SESSIONS_TABLES } from './sessions/tables';
import { STAFF_TABLES } from './staff/tables';
import { SURVEYS_TABLES } from './surveys/tables';
import { TRIAL_TABLES } from './trial/tables';
import { WORK_TABLES } from './work/tables';
import { text, type Column, type TableColumns } from './column';

export const TABLES = {
  ...ACCESS_TABLES,
  ...COMPLETION_TABLES,
  ...CONTACT_TABLES,
  ...COURSES_TABLES,
  ...DRIFT_TABLES,
  ...FEED_TABLES,
  ...GRADES_TABLES,
  ...IMPORTS_TABLES,
  ...PEOPLE_TABLES,
  ...POSTS_TABLES,
  ...ITEM_USE_TABLES,
  ...PRIVACY_TABLES,
  ...REPORTS_TABLES,
  ...SESSIONS_TABLES,
  ...STAFF_TABLES,
  ...SURVEYS_TABLES,
  ...TRIAL_TABLES,
  ...WORK_TABLES,
  setting: {
    name: text(),
    value: text(),
  },
} as const satisfies TableColumns;

/** A row of a table. @example RowOf<'learner'>['email'] // string | null */
export type RowOf<T extends keyof typeof TABLES> = {
  -readonly [C in keyof (typeof TABLES)[T]]: (typeof TABLES)[T][C] extends Column<infer V> ? V : never;
};

type Declared = { [T in keyof typeof TABLES]: RowOf<T> };

declare module 'knex/types/tables' {
  // Knex reads the tables from an interface of this name.
  // eslint-disable-next-line @typescript-eslint/no-empty-object-type
  interface Tables extends Declared {}
}
