/** Tables on paper: heads that come again on each page, columns as wide as what is in them, lines that wrap. */
import { NO_VALUE, isFigure, sayCell, type CellKind, type CellTime } from '@/core/reports/cells';
import type { Paper } from './pages';
import { settable } from './runs';
import { lineHeight, INK, LINE, QUIET, WATER_PALE, type SetLine, type TextStyle } from './typeset';

export interface PaperColumn {
  title: string;
  kind: CellKind;
}

const SIZE = 8;
const PAD = 3.5;
const ROW_PAD = 2.5;
/** Rows that widths are taken from. */
const SAMPLE = 100;
const BODY: TextStyle = { size: SIZE };
const HEAD: TextStyle = { size: SIZE, weight: 600 };

/** Widths in points that a kind asks for: of texts the least, which grows with the room there is. */
const WIDTHS: Record<CellKind, number> = {
  text: 74,
  texts: 82,
  table: 150,
  pace: 84,
  count: 44,
  number: 44,
  share: 46,
  percent: 46,
  minutes: 56,
  days: 48,
  instant: 84,
  day: 66,
  flag: 40,
};
/** A column is drawn out to what is in it, but no further. */
const WIDEST = 230;

/** Points across an upright page. */
const UPRIGHT = 511;

/** Columns that fit beside each other, with the first of them again at the left of each band after the first. */
export function bandsOf(columns: readonly PaperColumn[], width: number): number[][] {
  const bands: number[][] = [];
  let band: number[] = [];
  let used = 0;
  columns.forEach(({ kind }, index) => {
    if (band.length > 0 && used + WIDTHS[kind] > width) {
      bands.push(band);
      band = index > 0 ? [0] : [];
      used = WIDTHS[columns[0].kind];
    }
    band.push(index);
    used += WIDTHS[kind];
  });
  if (band.length > 0) bands.push(band);
  return bands;
}

/** Do columns ask for more than an upright page has? */
export function isTooWide(columns: readonly PaperColumn[]): boolean {
  return columns.reduce((sum, { kind }) => sum + WIDTHS[kind], 0) > UPRIGHT;
}

/** Widths of columns: the least that each asks for, and of the room left over what each would need for its texts. */
function widthsOf(columns: readonly PaperColumn[], width: number, natural: readonly number[]): number[] {
  const least = columns.map(({ kind }) => WIDTHS[kind]);
  const wishes = least.map((one, index) => Math.max(0, Math.min(WIDEST, natural[index]) - one));
  const left = Math.max(0, width - least.reduce((sum, one) => sum + one, 0));
  const all = wishes.reduce((sum, one) => sum + one, 0);
  const share = all === 0 ? 0 : Math.min(1, left / all);
  return least.map((one, index) => one + wishes[index] * share);
}

interface Cell {
  lines: readonly SetLine[];
  isRight: boolean;
}

/** A table being written: rows are added one by one. Widths go by the first rows, where they are given. */
export class PaperTable {
  private readonly widths: readonly number[];
  private readonly heads: readonly Cell[];
  private row = 0;

  constructor(
    private readonly paper: Paper,
    private readonly columns: readonly PaperColumn[],
    private readonly at: CellTime,
    sample: readonly (readonly unknown[])[] = [],
  ) {
    const textWidth = (text: string, style: TextStyle) => paper.set.line(settable(text), style).width + 2 * PAD + 1;
    const natural = columns.map(({ title, kind }, index) =>
      sample
        .slice(0, SAMPLE)
        .reduce(
          (widest, row) => Math.max(widest, textWidth(sayCell(kind, row[index], at).slice(0, 60), BODY)),
          Math.min(textWidth(title, HEAD), 1.3 * WIDTHS[kind]),
        ),
    );
    this.widths = widthsOf(columns, paper.width, natural);
    this.heads = columns.map(({ title, kind }, index) => this.cell(title, kind, index, HEAD));
    paper.begin('Table');
    this.drawHeads();
  }

  private cell(text: string, kind: CellKind, index: number, style: TextStyle): Cell {
    const width = this.widths[index] - 2 * PAD;
    return { lines: this.paper.set.lines(text, width, style, this.mostLines), isRight: isFigure(kind) };
  }

  /** Lines of a cell that a page can hold under the heads. */
  private get mostLines(): number {
    return Math.max(4, Math.floor((this.paper.bottom - this.paper.top) / lineHeight(SIZE)) - 6);
  }

  private drawHeads(): void {
    const height = heightOf(this.heads);
    this.paper.room(height + lineHeight(SIZE) + 2 * ROW_PAD);
    const { paper } = this;
    paper.artifact(() => {
      const all = this.widths.reduce((sum, one) => sum + one, 0);
      paper.doc.rect(paper.left, paper.y, all, height).fill(WATER_PALE);
    });
    this.drawRow(this.heads, 'TH', HEAD);
  }

  private drawRow(cells: readonly Cell[], tag: 'TH' | 'TD', style: TextStyle): void {
    const { paper } = this;
    const height = heightOf(cells);
    let x = paper.left;
    paper.within('TR', () => {
      cells.forEach(({ lines, isRight }, index) => {
        const width = this.widths[index];
        paper.tag(tag, () => {
          const align = isRight ? ('right' as const) : ('left' as const);
          paper.set.drawAll(lines, isRight ? x + width - PAD : x + PAD, paper.y + ROW_PAD, { ...style, align });
        });
        x += width;
      });
    });
    paper.y += height;
    paper.artifact(() => {
      paper.doc.moveTo(paper.left, paper.y).lineTo(x, paper.y).lineWidth(0.4).stroke(LINE);
    });
  }

  /** Adds a row; where the page is full, the heads come again on the next. */
  add(values: readonly unknown[]): void {
    const cells = this.columns.map(({ kind }, index) =>
      this.cell(sayCell(kind, values[index], this.at), kind, index, BODY),
    );
    if (this.paper.room(heightOf(cells))) this.drawHeads();
    const isEmpty = values.every((value, index) => sayCell(this.columns[index].kind, value, this.at) === NO_VALUE);
    this.drawRow(cells, 'TD', { ...BODY, color: isEmpty ? QUIET : INK });
    this.row += 1;
  }

  /** Ends the table; one without rows says so. @returns how many rows it has */
  end(says = 'None.'): number {
    this.paper.end();
    if (this.row === 0) this.paper.text('P', says, { size: SIZE, color: QUIET });
    return this.row;
  }
}

function heightOf(cells: readonly Cell[]): number {
  return Math.max(1, ...cells.map(({ lines }) => lines.length)) * lineHeight(SIZE) + 2 * ROW_PAD;
}
