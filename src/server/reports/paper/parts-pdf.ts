/** A document of parts: each a heading, a sentence or two, and a table or lines. */
import type { Readable } from 'node:stream';
import type { CellTime } from '@/core/reports/cells';
import { sayDay, sayTime } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { Paper } from './pages';
import { caughtUp, paperStream } from './paper-stream';
import { PaperTable, isTooWide, type PaperColumn } from './table';
import { QUIET } from './typeset';

export interface PaperPart {
  /** Its heading; left out where the document's title says it. */
  heading?: string;
  says?: string;
  /** A table, or lines of text across the page. */
  table?: { columns: readonly PaperColumn[]; rows: readonly (readonly unknown[])[] };
  lines?: readonly string[];
  /** What stands under it. */
  note?: string;
}

/** Rows after which what is written is let go, and others have their turn. */
const STEP = 20;

/** Some parts under one title as a stream of PDF. */
export function partsPdf(title: string, parts: readonly PaperPart[], at: CellTime): Readable {
  const today = dayOf(at.now, at.zone);
  const foot = `As of ${sayDay(today)} ${dateOfDay(today).slice(0, 4)}, ${sayTime(at.now, at.zone)}`;
  const paper = new Paper({ title, foot, isWide: parts.some(({ table }) => table && isTooWide(table.columns)) });
  return paperStream(paper, async () => {
    paper.newPage();
    paper.text('H1', title, { size: 15, weight: 600 }, 4);
    for (const { heading, says, table, lines = [], note } of parts) {
      if (heading !== undefined) paper.text('H2', heading, { size: 11, weight: 600 }, 2);
      if (says) paper.text('P', says, { size: 8.5, color: QUIET }, 4);
      if (table) {
        const open = new PaperTable(paper, table.columns, at, table.rows);
        for (const [index, row] of table.rows.entries()) {
          open.add(row);
          if (index % STEP === STEP - 1) await caughtUp(paper);
        }
        open.end();
      }
      for (const [index, line] of lines.entries()) {
        paper.text('P', line, { size: 8 }, 2);
        if (index % STEP === STEP - 1) await caughtUp(paper);
      }
      paper.y += 6;
      if (note) paper.text('P', note, { size: 8.5, color: QUIET }, 6);
      await caughtUp(paper);
    }
  });
}
