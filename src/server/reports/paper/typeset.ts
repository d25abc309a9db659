/** Setting text: how wide it is, where its lines end, and putting them on the page. */
import type PDFDocument from 'pdfkit';
import type { Weight } from './faces';
import { breakable, graphemes, runsOf, settable, type Run } from './runs';

export type Doc = InstanceType<typeof PDFDocument>;

/** Colours of paper: the application's own, on white. */
export const INK = '#14283A';
export const QUIET = '#51616F';
export const LINE = '#B9C7D1';
export const WATER = '#2F6F9A';
export const WATER_PALE = '#DCEBF3';

export interface TextStyle {
  size: number;
  weight?: Weight;
  color?: string;
  align?: 'left' | 'right';
}

/** A line ready to be drawn. */
export interface SetLine {
  runs: readonly Run[];
  width: number;
}

/** Lines of one text at most, when it has to stay on one page: what does not fit ends with an ellipsis. */
const MOST_LINES = 40;
/** Widths kept at most; of a long report, names and titles come again and again. */
const KEPT_WIDTHS = 20_000;

/** Height of a line for a size: room for accents and vowels above and below of all scripts. */
export function lineHeight(size: number): number {
  return Math.round(size * 1.4 * 10) / 10;
}

/** Sets text on a document's pages. */
export class Typesetter {
  private widths = new Map<string, number>();

  constructor(readonly doc: Doc) {}

  private widthOfRun({ text, face, isRightToLeft }: Run, size: number): number {
    const key = `${size} ${face} ${text}`;
    const found = this.widths.get(key);
    if (found !== undefined) return found;
    if (this.widths.size > KEPT_WIDTHS) this.widths = new Map();
    const width = this.doc.font(face).fontSize(size).widthOfString(text, shapedAsWhole(isRightToLeft));
    this.widths.set(key, width);
    return width;
  }

  /** A text on one line, however wide. */
  line(text: string, { size, weight = 400 }: TextStyle): SetLine {
    const runs = runsOf(text, weight);
    return { runs, width: runs.reduce((sum, run) => sum + this.widthOfRun(run, size), 0) };
  }

  /** A text in lines of at most a width. A word that is wider is broken between two signs. */
  lines(text: string, width: number, style: TextStyle, most = MOST_LINES): SetLine[] {
    const plain = settable(text).trim();
    const whole = this.line(plain, style);
    if (whole.width <= width) return [whole];
    const lines: string[] = [];
    let current = '';
    const fits = (part: string) => this.line(part.trimEnd(), style).width <= width;
    const push = (part: string) => {
      if (fits(current + part)) {
        current += part;
        return;
      }
      if (current.trim() !== '') lines.push(current.trimEnd());
      current = '';
      if (fits(part)) {
        current = part;
        return;
      }
      for (const sign of graphemes(part)) {
        if (current !== '' && !fits(current + sign)) {
          lines.push(current.trimEnd());
          current = '';
        }
        current += sign;
        if (lines.length > most) return;
      }
    };
    for (const part of breakable(plain)) {
      push(part);
      if (lines.length > most) break;
    }
    if (current.trim() !== '') lines.push(current.trimEnd());
    const shown = lines.slice(0, most);
    if (lines.length > most) shown[most - 1] = `${shown[most - 1].replace(/.$/u, '')}…`;
    return shown.map((one) => this.line(one, style));
  }

  /** Draws a line with its top left, or top right, at a place. */
  draw({ runs, width }: SetLine, x: number, y: number, { size, color = INK, align = 'left' }: TextStyle): void {
    const { doc } = this;
    let at = align === 'right' ? x - width : x;
    // Faces differ in how high they rise: all stand on one line.
    const baseline = y + size * 1.07;
    doc.fillColor(color);
    for (const run of runs) {
      const own = this.widthOfRun(run, size);
      doc.font(run.face).fontSize(size);
      doc.text(run.text, at, baseline, {
        lineBreak: false,
        baseline: 'alphabetic',
        ...({ textWidth: own, wordCount: 1 } as object),
        ...shapedAsWhole(run.isRightToLeft),
      });
      at += own;
    }
  }

  /** Draws lines under each other; gives the height that they take. */
  drawAll(lines: readonly SetLine[], x: number, y: number, style: TextStyle): number {
    const height = lineHeight(style.size);
    lines.forEach((line, index) => this.draw(line, x, y + index * height, style));
    return lines.length * height;
  }
}

/**
 * Words are set one by one otherwise, from left to right: a run that goes the other way is shaped as a whole.
 * A list of features, even of none, asks for that.
 */
function shapedAsWhole(isRightToLeft: boolean): { features?: [] } {
  return isRightToLeft ? { features: [] } : {};
}
