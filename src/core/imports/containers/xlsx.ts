/**
 * Reading the parts of an XLSX workbook (ECMA-376), each as its text arrives. Entities that a part declares are not expanded:
 * one that uses any is refused by the parser.
 */
import { SaxesParser } from 'saxes';
import { lookOfFormat, sayNumber, type NumberLook } from './serial-dates';

export interface SheetEntry {
  name: string;
  /** The relation under which its part stands. */
  relation: string;
  isHidden: boolean;
}

/** Reads XML in pieces, by element. @throws Error for what is not well-formed */
function parse(on: {
  open?: (name: string, attributes: Record<string, string>) => void;
  text?: (text: string) => void;
  close?: (name: string) => void;
}): { write(text: string): void; end(): void } {
  const parser = new SaxesParser();
  const bare = (name: string) => name.slice(name.indexOf(':') + 1);
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('opentag', ({ name, attributes }) => on.open?.(bare(name), attributes));
  if (on.text) parser.on('text', on.text);
  parser.on('closetag', ({ name }) => on.close?.(bare(name)));
  return { write: (text) => void parser.write(text), end: () => void parser.close() };
}

/** The sheets of a workbook in their order, and which system of dates it has. */
export function readWorkbook(xml: string): { sheets: SheetEntry[]; is1904: boolean } {
  const sheets: SheetEntry[] = [];
  let is1904 = false;
  const parser = parse({
    open: (name, attributes) => {
      if (name === 'workbookPr') is1904 = /^(1|true)$/.test(attributes.date1904 ?? '');
      if (name !== 'sheet') return;
      const relation = Object.entries(attributes).find(([key]) => key.endsWith(':id'))?.[1] ?? '';
      const isHidden = attributes.state === 'hidden' || attributes.state === 'veryHidden';
      sheets.push({ name: attributes.name ?? '', relation, isHidden });
    },
  });
  parser.write(xml);
  parser.end();
  return { sheets, is1904 };
}

/** Targets of a part's relations by their ids. */
export function readRelations(xml: string): Map<string, string> {
  const targets = new Map<string, string>();
  const parser = parse({
    open: (name, { Id, Target }) => {
      if (name === 'Relationship' && Id && Target) targets.set(Id, Target);
    },
  });
  parser.write(xml);
  parser.end();
  return targets;
}

/** What each style of a workbook makes of a number. */
export function readStyles(xml: string): NumberLook[] {
  const codes = new Map<number, string>();
  const looks: NumberLook[] = [];
  let isInCells = false;
  const parser = parse({
    open: (name, attributes) => {
      if (name === 'numFmt') codes.set(Number(attributes.numFmtId), attributes.formatCode ?? '');
      if (name === 'cellXfs') isInCells = true;
      if (name === 'xf' && isInCells) {
        const id = Number(attributes.numFmtId ?? 0);
        looks.push(lookOfFormat(id, codes.get(id)));
      }
    },
    close: (name) => {
      if (name === 'cellXfs') isInCells = false;
    },
  });
  parser.write(xml);
  parser.end();
  return looks;
}

/** Texts that cells refer to by number, gathered as they arrive. */
export class SharedStrings {
  readonly texts: string[] = [];
  /** Letters so far. */
  size = 0;
  private current = '';
  private isText = false;
  private isPhonetic = false;
  private readonly parser = parse({
    open: (name) => {
      if (name === 'si') this.current = '';
      else if (name === 'rPh') this.isPhonetic = true;
      else if (name === 't') this.isText = !this.isPhonetic;
    },
    text: (text) => {
      if (this.isText) this.current += text;
    },
    close: (name) => {
      if (name === 't') this.isText = false;
      else if (name === 'rPh') this.isPhonetic = false;
      else if (name === 'si') {
        this.texts.push(this.current);
        this.size += this.current.length;
      }
    },
  });

  write(text: string): void {
    this.parser.write(text);
  }
}

/** The column of a cell's reference, from 0. @example columnOf('AB12') // 27 */
function columnOf(reference: string): number {
  let column = 0;
  for (let i = 0; i < reference.length; i += 1) {
    const letter = reference.charCodeAt(i) - 64;
    if (letter < 1 || letter > 26) break;
    column = column * 26 + letter;
  }
  return column - 1;
}

export interface SheetRow {
  /** As the sheet counts them, from 1. */
  number: number;
  cells: string[];
}

/** The rows of a sheet, as its part arrives: formulas as their values, hidden rows left out. */
export class SheetReader {
  /** Does anything stand in a column beyond those that are read? */
  isWider = false;
  /** Rows that were hidden. */
  hidden = 0;
  private rows: SheetRow[] = [];
  private row: SheetRow | null = null;
  private column = 0;
  private type = '';
  private style = 0;
  private text = '';
  private isValue = false;
  private number = 0;
  private isHidden = false;
  private readonly parser;

  constructor(
    private readonly strings: readonly string[],
    private readonly looks: readonly NumberLook[],
    private readonly is1904: boolean,
    private readonly mostColumns: number,
  ) {
    this.parser = parse({
      open: (name, attributes) => this.open(name, attributes),
      text: (text) => {
        if (this.isValue) this.text += text;
      },
      close: (name) => this.close(name),
    });
  }

  /** Takes the next piece and returns the rows that it completes. */
  push(xml: string): SheetRow[] {
    this.parser.write(xml);
    const { rows } = this;
    this.rows = [];
    return rows;
  }

  private open(name: string, attributes: Record<string, string>) {
    if (name === 'row') {
      this.number = Number(attributes.r ?? this.number + 1);
      this.isHidden = /^(1|true)$/.test(attributes.hidden ?? '');
      this.row = { number: this.number, cells: [] };
      this.column = -1;
    } else if (name === 'c') {
      this.column = attributes.r ? columnOf(attributes.r) : this.column + 1;
      this.type = attributes.t ?? 'n';
      this.style = Number(attributes.s ?? 0);
      this.text = '';
    } else if (name === 'v' || (name === 't' && this.type === 'inlineStr')) this.isValue = true;
  }

  private close(name: string) {
    if (name === 'v' || name === 't') this.isValue = false;
    else if (name === 'c' && this.row && this.column >= 0) {
      const text = this.sayCell();
      if (text === '') return;
      if (this.column >= this.mostColumns) {
        this.isWider = true;
        return;
      }
      while (this.row.cells.length < this.column) this.row.cells.push('');
      this.row.cells[this.column] = text;
    } else if (name === 'row' && this.row) {
      if (this.isHidden) this.hidden += 1;
      else this.rows.push(this.row);
      this.row = null;
    }
  }

  private sayCell(): string {
    const { text } = this;
    if (text === '') return '';
    if (this.type === 's') return this.strings[Number(text)] ?? '';
    if (this.type === 'b') return text === '1' ? 'yes' : 'no';
    // What a formula could not work out is no value.
    if (this.type === 'e') return '';
    if (this.type !== 'n') return text;
    const look = this.looks[this.style] ?? 'number';
    // 17.3 may be kept as 17.300000000000001.
    return look === 'number'
      ? String(Number(Number(text).toPrecision(15)))
      : sayNumber(Number(text), look, this.is1904);
  }
}
