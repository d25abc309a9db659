/** Reading the content of an OpenDocument spreadsheet (ISO/IEC 26300) as it arrives. */
import { SaxesParser } from 'saxes';

/** Rows and cells that only fill a sheet up to its edge. */
const FILLING = 1000;

export interface OdsRow {
  sheet: string;
  number: number;
  cells: string[];
}

/** A length of time as ISO 8601 has it, as hours:minutes:seconds. */
function sayLength(text: string): string {
  const [, hours = '0', minutes = '0', seconds = '0'] =
    /^PT(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)(?:[.,]\d+)?S)?$/.exec(text) ?? [];
  return [hours, minutes, seconds].map((part) => part.padStart(2, '0')).join(':');
}

/** The rows of a spreadsheet's tables, hidden ones left out, values as they are typed. */
export class OdsReader {
  /** Does anything stand in a column beyond those that are read? */
  isWider = false;
  /** Sheets that are hidden. */
  readonly hiddenSheets: string[] = [];
  hidden = 0;
  private readonly hiddenStyles = new Set<string>();
  private style = '';
  private rows: OdsRow[] = [];
  private sheet = '';
  private isHiddenSheet = false;
  private number = 0;
  private repeat = 1;
  private isHidden = false;
  private cells: string[] = [];
  private cell: { value: string | null; text: string; repeat: number } | null = null;
  private isText = false;
  private readonly parser = new SaxesParser();

  constructor(private readonly mostColumns: number) {
    this.parser.on('error', (error) => {
      throw error;
    });
    this.parser.on('opentag', ({ name, attributes }) => this.open(name, attributes));
    this.parser.on('text', (text) => {
      if (this.cell && this.isText) this.cell.text += text;
    });
    this.parser.on('closetag', ({ name }) => this.close(name));
  }

  push(xml: string): OdsRow[] {
    this.parser.write(xml);
    const { rows } = this;
    this.rows = [];
    return rows;
  }

  private open(name: string, attributes: Record<string, string>) {
    switch (name) {
      case 'style:style':
        this.style = attributes['style:name'] ?? '';
        break;
      case 'style:table-properties':
        if (attributes['table:display'] === 'false') this.hiddenStyles.add(this.style);
        break;
      case 'table:table':
        this.sheet = attributes['table:name'] ?? '';
        this.number = 0;
        this.isHiddenSheet = this.hiddenStyles.has(attributes['table:style-name'] ?? '');
        if (this.isHiddenSheet) this.hiddenSheets.push(this.sheet);
        break;
      case 'table:table-row':
        this.repeat = Number(attributes['table:number-rows-repeated'] ?? 1);
        this.isHidden = ['collapse', 'filter'].includes(attributes['table:visibility'] ?? '');
        this.cells = [];
        break;
      case 'table:table-cell':
      case 'table:covered-table-cell':
        this.cell = {
          value: valueOf(attributes),
          text: '',
          repeat: Number(attributes['table:number-columns-repeated'] ?? 1),
        };
        break;
      case 'text:p':
        if (this.cell && this.cell.text !== '') this.cell.text += ' ';
        this.isText = true;
        break;
      case 'text:s':
        if (this.cell) this.cell.text += ' ';
        break;
    }
  }

  private close(name: string) {
    if (name === 'text:p') this.isText = false;
    else if ((name === 'table:table-cell' || name === 'table:covered-table-cell') && this.cell) {
      const { value, text, repeat } = this.cell;
      const said = value ?? text;
      const count = said === '' && repeat > FILLING ? 1 : Math.min(repeat, this.mostColumns);
      for (let i = 0; i < count && this.cells.length < this.mostColumns; i += 1) this.cells.push(said);
      if (said !== '' && this.cells.length === this.mostColumns) this.isWider = true;
      this.cell = null;
    } else if (name === 'table:table-row') this.endRow();
  }

  private endRow() {
    while (this.cells.at(-1) === '') this.cells.pop();
    const count = this.cells.length === 0 ? 0 : Math.min(this.repeat, FILLING);
    for (let i = 0; i < count; i += 1) {
      if (this.isHiddenSheet) continue;
      if (this.isHidden) this.hidden += 1;
      else this.rows.push({ sheet: this.sheet, number: this.number + i + 1, cells: [...this.cells] });
    }
    this.number += this.repeat;
  }
}

/** A cell's value as it is typed; null where its text is it. */
function valueOf(attributes: Record<string, string>): string | null {
  switch (attributes['office:value-type']) {
    case 'float':
    case 'currency':
      return attributes['office:value'] ?? null;
    case 'percentage':
      return `${Number((100 * Number(attributes['office:value'])).toPrecision(12))} %`;
    case 'date':
      return (attributes['office:date-value'] ?? '').replace(/T00:00:00$/, '') || null;
    case 'time':
      return sayLength(attributes['office:time-value'] ?? '');
    case 'boolean':
      return attributes['office:boolean-value'] === 'true' ? 'yes' : 'no';
    default:
      return null;
  }
}
