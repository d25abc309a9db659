import { memo, type CSSProperties, type ReactNode } from 'react';
import { RowCheck } from '@/ui/row-check';
import { PersonLink } from '../_people/person-link';
import type { GridFigure, GridHead } from '@/server/request/grid';
import type { Listed } from '../_people/use-people';
import { Figure } from './figure';
import classes from './grid.module.css';

/** A row of a grid: a person, and what stands beside the name. */
export interface GridLine extends Listed {
  figures: readonly (string | GridFigure)[];
}

/** What a cell looks like: its form by its kind, what stands in it, and what it says in words. */
export interface GridCell {
  kind: string;
  content?: ReactNode;
  /** Width of its bar, 0–100. */
  bar?: number;
  isOverdue?: boolean;
  isByHand?: boolean;
  says: string;
}

/** Where something drawn begins, in px. */
interface Place {
  index: number;
  start: number;
}

interface CellProps<Row> {
  row: Row;
  rowIndex: number;
  column: number;
  /** Px from the first column. */
  start: number;
  title: string;
  isCursor: boolean;
  cell: (row: Row, column: number) => GridCell;
}

function PlainCell<Row>({ row, rowIndex, column, start, title, isCursor, cell }: CellProps<Row>) {
  const { kind, content, bar, isOverdue, isByHand, says } = cell(row, column);
  return (
    <span
      role="gridcell"
      data-cell={`${rowIndex}/${column}`}
      data-kind={kind}
      data-overdue={isOverdue || undefined}
      data-hand={isByHand || undefined}
      tabIndex={isCursor ? 0 : -1}
      className={classes.cell}
      style={
        {
          left: `calc(var(--stick) + ${start}px)`,
          ...(bar === undefined ? {} : { '--bar': `${bar}%` }),
        } as CSSProperties
      }
      aria-label={`${title}: ${says}`}
    >
      {content}
    </span>
  );
}

interface RowProps<Row> {
  row: Row;
  index: number;
  /** Px from the first row. */
  start: number;
  shownColumns: readonly Place[];
  titles: readonly string[];
  heads: readonly GridHead[];
  cell: (row: Row, column: number) => GridCell;
  isSelected: boolean;
  /** The column of the cursor, where it is in this row. */
  cursor: number | null;
  onToggle: (id: number) => void;
}

function PlainRow<Row extends GridLine>(props: RowProps<Row>) {
  const { row, index, start, shownColumns, titles, heads, cell, isSelected, cursor, onToggle } = props;
  return (
    <div
      className={classes.row}
      role="row"
      aria-rowindex={index + 2}
      data-selected={isSelected || undefined}
      style={{ top: start }}
    >
      <div className={classes.stick}>
        <span className={classes.box} role="gridcell">
          <RowCheck checked={isSelected} onChange={() => onToggle(row.id)} label={`Select ${row.name}`} />
        </span>
        <span className={classes.name} role="rowheader">
          <PersonLink learnerId={row.learnerId} name={row.name} />
        </span>
        {heads.map(({ title, index: place, isWide }) => (
          <span key={title} className={classes.figure} data-wide={isWide || undefined} role="gridcell">
            <Figure figure={row.figures[place]} />
          </span>
        ))}
      </div>
      {shownColumns.map((column) => (
        <Cell
          key={column.index}
          row={row}
          rowIndex={index}
          column={column.index}
          start={column.start}
          title={titles[column.index]}
          isCursor={cursor === column.index}
          cell={cell}
        />
      ))}
    </div>
  );
}

// Scrolling draws what has come into sight, and nothing again that stands there already.
const Cell = memo(PlainCell) as typeof PlainCell;
/** One learner's row: who it is, their figures, and the cells of the columns in sight. */
export const GridRow = memo(PlainRow) as typeof PlainRow;
