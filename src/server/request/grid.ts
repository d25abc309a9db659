/** Columns of a list that its grid shows beside the names: declared with the column, drawn by the page. */
import type { At, Column } from './list';

/** What stands in a cell beside a name. */
export interface GridFigure {
  text: string;
  /** Said when it is pointed at. */
  hint?: string;
  /** Needs somebody. */
  isBad?: boolean;
  /** Drawn before the text as a tiny line, with a level to compare it with. */
  series?: { values: number[]; level: number };
}

/** How a column stands beside the names. */
export interface GridSpec<Row> {
  /** Its head, where that is not the column's title. */
  title?: string;
  /** In px. */
  width: number;
  /** Leaves first where there is little room. */
  isWide?: boolean;
  /** The order that the first press on its head gives: downwards. */
  first?: '-';
  cell: (row: Row, at: At) => string | GridFigure;
  /** Left out where it says nothing of anybody. */
  isShown?: (rows: readonly Row[]) => boolean;
}

/** A head as the page draws it; `index` is where its cell stands in a line's figures. */
export interface GridHead extends Omit<GridSpec<never>, 'cell' | 'isShown' | 'title'> {
  index: number;
  title: string;
  sort?: string;
}

type Columns<Row> = Readonly<Record<string, Column<Row>>>;

/** The heads of what stands beside the names, in the order of the columns. */
export function gridHeads<Row>(columns: Columns<Row>, rows: readonly Row[]): GridHead[] {
  return Object.values(columns)
    .flatMap(({ grid, title, sort }) => (grid ? [{ grid, title, sort }] : []))
    .flatMap(({ grid, title, sort }, index) => {
      const { width, isWide, first, isShown } = grid;
      return isShown && !isShown(rows) ? [] : [{ index, title: grid.title ?? title, sort, width, isWide, first }];
    });
}

/** What stands beside a name, in the order of the columns. */
export function gridFigures<Row>(columns: Columns<Row>, row: Row, at: At): (string | GridFigure)[] {
  return Object.values(columns).flatMap(({ grid }) => (grid ? [grid.cell(row, at)] : []));
}
