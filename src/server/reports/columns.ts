/**
 * Every column that a report may have. Each says whether it may leave the staff: what goes to a learner, a family or an
 * employer is made of those alone.
 */
import { UNITS } from '@/core/reports/cells';
import { ROWS_PER, type Audience, type RowsPer } from '@/core/reports/definition';
import { ENROLMENT_COLUMNS } from './columns/enrolment';
import { ENROLMENT_LIST_COLUMNS } from './columns/enrolment-lists';
import { ITEM_COLUMNS } from './columns/item';
import { LEARNER_COLUMNS } from './columns/learner';
import { PROGRESS_COLUMNS } from './columns/progress';
import { SESSION_COLUMNS } from './columns/session';
import type { ReportColumn } from './row';

export const COLUMNS: readonly ReportColumn[] = [
  ...LEARNER_COLUMNS,
  ...ENROLMENT_COLUMNS,
  ...PROGRESS_COLUMNS,
  ...ENROLMENT_LIST_COLUMNS,
  ...ITEM_COLUMNS,
  ...SESSION_COLUMNS,
];

const BY_NAME = new Map(COLUMNS.map((column) => [column.name, column]));

export function columnNamed(name: string): ReportColumn | undefined {
  return BY_NAME.get(name);
}

/** Can a row of one sort have a column of another? Items and sessions stand beside each other, not within. */
export function fits(per: RowsPer, column: Pick<ReportColumn, 'per'>): boolean {
  return column.per === per || (column.per !== 'session' && column.per !== 'item' && order(column.per) < order(per));
}

const order = (per: RowsPer) => ROWS_PER.indexOf(per);

/** May a column be in a report for these? */
export function mayBeFor(audience: Audience, column: Pick<ReportColumn, 'leaves'>): boolean {
  return audience === 'staff' || column.leaves;
}

/** A column as programs and whoever chooses read it. */
export interface ColumnShown {
  name: string;
  title: string;
  unit: string;
  says: string;
  per: RowsPer;
  leaves: boolean;
}

export function columnsShown(): ColumnShown[] {
  return COLUMNS.map(({ name, title, kind, says, per, leaves }) => ({
    name,
    title,
    unit: UNITS[kind],
    says,
    per,
    leaves,
  }));
}
