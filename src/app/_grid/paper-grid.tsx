import type { CSSProperties } from 'react';
import type { GridHead } from '@/server/request/grid';
import { Figure } from './figure';
import type { GridCell, GridLine } from './grid-row';
import type { GridColumn } from './people-grid';
import { pagesOfColumns } from './paper';
import classes from './grid.module.css';

interface Props<Row extends GridLine> {
  label: string;
  rows: readonly Row[];
  total: number;
  columns: readonly GridColumn[];
  columnWidth: number;
  units: readonly { unit: string; first: number; count: number }[];
  heads: readonly GridHead[];
  cell: (row: Row, column: number) => GridCell;
}

const NAME_WIDTH = 170;
/** What is written between the lines of a table takes more than its columns: their padding and lines. */
const FIGURE_PADDING = 6;

/** A grid on paper: each page has the names, the figures, and as many columns as it holds, under heads that repeat. */
export function PaperGrid<Row extends GridLine>(props: Props<Row>) {
  const { label, rows, total, columns, columnWidth, units, heads, cell } = props;
  const stick = heads.reduce((sum, { width }) => sum + width + FIGURE_PADDING, NAME_WIDTH);
  const pages = pagesOfColumns(columns.length, columnWidth, stick, units);
  return (
    <div style={{ '--cell': `${columnWidth}px` } as CSSProperties}>
      {rows.length < total && (
        <p className={classes.sheetNote}>
          The first {rows.length} of {total} learners.
        </p>
      )}
      {pages.map(({ from, to }, page) => (
        <table
          key={from}
          className={classes.sheet}
          style={{ width: stick + (to - from) * columnWidth }}
          aria-label={label}
        >
          <colgroup>
            <col style={{ width: NAME_WIDTH }} />
            {heads.map(({ title, width }) => (
              <col key={title} style={{ width: width + FIGURE_PADDING }} />
            ))}
            {columns.slice(from, to).map(({ key }) => (
              <col key={key} style={{ width: columnWidth }} />
            ))}
          </colgroup>
          <thead>
            {units.some(({ unit }) => unit !== '') && (
              <tr>
                <th colSpan={heads.length + 1}>
                  {pages.length > 1 && `${label}, part ${page + 1} of ${pages.length}`}
                </th>
                {units
                  .map(({ unit, first, count }) => ({
                    unit,
                    first,
                    count: Math.min(to, first + count) - Math.max(from, first),
                  }))
                  .filter(({ count }) => count > 0)
                  .map(({ unit, first, count }) => (
                    <th key={first} colSpan={count} className={classes.sheetUnit}>
                      {unit}
                    </th>
                  ))}
              </tr>
            )}
            <tr>
              <th scope="col">Learner</th>
              {heads.map(({ title }) => (
                <th key={title} scope="col">
                  {title}
                </th>
              ))}
              {columns.slice(from, to).map(({ key, title, head }) => (
                <th key={key} scope="col" className={classes.sheetHead} data-upright={head ? true : undefined}>
                  <span>{head ?? title}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.row ?? row.id}>
                <th scope="row">
                  <bdi>{row.name}</bdi>
                </th>
                {heads.map(({ title, index }) => (
                  <td key={title}>
                    <Figure figure={row.figures[index]} />
                  </td>
                ))}
                {columns.slice(from, to).map(({ key }, index) => {
                  const { kind, content, bar, isOverdue, isByHand } = cell(row, from + index);
                  return (
                    <td
                      key={key}
                      className={classes.cell}
                      data-kind={kind}
                      data-overdue={isOverdue || undefined}
                      data-hand={isByHand || undefined}
                      style={bar === undefined ? undefined : ({ '--bar': `${bar}%` } as CSSProperties)}
                    >
                      {content}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
    </div>
  );
}
