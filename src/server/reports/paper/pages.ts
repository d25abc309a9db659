/** Pages of a document: their margins, heading and number, and the tags by which a screen reader knows what is what. */
import PDFDocument from 'pdfkit';
import { lineHeight, Typesetter, INK, LINE, QUIET, type Doc, type TextStyle } from './typeset';

/** A4 in points. */
const SHORT = 595.28;
const LONG = 841.89;
const MARGIN = 42;
const HEAD = 30;
const FOOT = 26;

type Struct = ReturnType<Doc['struct']>;

/** The tags that are used here: of ISO 32000-1, 14.8.4. */
export type Tag = 'Document' | 'Sect' | 'H1' | 'H2' | 'H3' | 'P' | 'Table' | 'TR' | 'TH' | 'TD' | 'Figure';

export interface PaperHead {
  /** Of the whole document. */
  title: string;
  /** At the foot of each page: as of when, for whom. */
  foot: string;
  isWide: boolean;
}

/** A document that is written page by page and read as it is written. */
export class Paper {
  readonly doc: Doc;
  readonly set: Typesetter;
  readonly width: number;
  readonly bottom: number;
  /** Where the next thing goes. */
  y = 0;
  pages = 0;
  private readonly root: Struct;
  private open: Struct[] = [];

  constructor(private readonly head: PaperHead) {
    const size: [number, number] = head.isWide ? [LONG, SHORT] : [SHORT, LONG];
    this.doc = new PDFDocument({
      size,
      margin: 0,
      autoFirstPage: false,
      pdfVersion: '1.7',
      lang: 'en',
      tagged: true,
      displayTitle: true,
      info: { Title: head.title, Creator: 'Lee Shore', Producer: 'Lee Shore' },
    });
    this.set = new Typesetter(this.doc);
    this.width = size[0] - 2 * MARGIN;
    this.bottom = size[1] - MARGIN - FOOT;
    this.root = this.doc.struct('Document');
    this.doc.addStructure(this.root);
    this.open = [this.root];
  }

  get left(): number {
    return MARGIN;
  }

  get right(): number {
    return MARGIN + this.width;
  }

  /** The first line of a page under its head. */
  get top(): number {
    return MARGIN + HEAD;
  }

  /** Begins a page, with the document's title above and the page's number below. */
  newPage(): void {
    const { doc, set } = this;
    doc.addPage();
    this.pages += 1;
    const small: TextStyle = { size: 8, color: QUIET };
    const number = set.line(String(this.pages), small);
    const [title] = set.lines(this.head.title, this.width - 20, small, 1);
    const [foot] = set.lines(this.head.foot, this.width - number.width - 20, small, 1);
    this.artifact(() => {
      set.draw(title, this.left, MARGIN - 6, small);
      doc
        .moveTo(this.left, MARGIN + lineHeight(8))
        .lineTo(this.right, MARGIN + lineHeight(8))
        .lineWidth(0.5)
        .stroke(LINE);
      const y = this.bottom + FOOT - lineHeight(8);
      set.draw(foot, this.left, y, small);
      set.draw(number, this.right, y, { ...small, align: 'right' });
    });
    this.y = this.top;
  }

  /** Begins a page where less room than that is left. @returns whether it did */
  room(height: number): boolean {
    if (this.pages > 0 && this.y + height <= this.bottom) return false;
    this.newPage();
    return true;
  }

  /** What is drawn and says nothing: lines, grounds, the page's number. */
  artifact(draw: () => void): void {
    this.doc.markContent('Artifact');
    draw();
    this.doc.endMarkedContent();
  }

  /** Tags what is drawn within, on one page. */
  tag(tag: Tag, draw: () => void, options: object = {}): void {
    const struct = this.doc.struct(tag, options, draw);
    this.open.at(-1)!.add(struct);
    struct.end();
  }

  /** Opens a tag that holds others, over as many pages as they need. */
  within(tag: Tag, work: () => void): void {
    this.begin(tag);
    work();
    this.end();
  }

  begin(tag: Tag): void {
    const struct = this.doc.struct(tag);
    this.open.at(-1)!.add(struct);
    this.open.push(struct);
  }

  end(): void {
    this.open.pop()!.end();
  }

  /** Sets a text in its own lines under what there is. */
  text(tag: Tag, text: string, style: TextStyle, gap = 0): void {
    const lines = this.set.lines(text, this.width, style);
    this.room(lines.length * lineHeight(style.size));
    this.tag(tag, () => {
      this.y += this.set.drawAll(lines, this.left, this.y, { color: INK, ...style });
    });
    this.y += gap;
  }

  /** Ends the document: what was tagged is written. */
  finish(): void {
    while (this.open.length > 0) this.end();
    this.doc.end();
  }
}
