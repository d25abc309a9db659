/** Tables of reports. */
import { integer, orNull, text, type TableColumns } from '../column';

export type RunState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';

export const REPORTS_TABLES = {
  report: {
    id: integer(),
    name: text(),
    definition: text(),
    owner_id: orNull(integer()),
    revision: integer(),
    created_at: integer(),
    changed_at: integer(),
    changed_by: orNull(integer()),
    last_run_at: orNull(integer()),
  },
  report_share: {
    report_id: integer(),
    staff_id: integer(),
  },
  report_run: {
    id: integer(),
    report_id: orNull(integer()),
    name: text(),
    definition: text(),
    format: text<'csv' | 'xlsx' | 'json' | 'pdf'>(),
    layout: text<'table' | 'pages'>(),
    staff_id: orNull(integer()),
    names_hidden: integer(),
    state: text<RunState>(),
    done: integer(),
    total: integer(),
    error: orNull(text()),
    owner: orNull(text()),
    lease_until: integer(),
    created_at: integer(),
    ended_at: orNull(integer()),
  },
} as const satisfies TableColumns;
