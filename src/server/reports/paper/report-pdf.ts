/** A report as a PDF: written as it is read, so that a thousand pages are never held at once. */
import type { Readable } from 'node:stream';
import { PER_WORDS, type Layout } from '@/core/reports/definition';
import { sayCount, sayDay, sayTime } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import type { Runtime } from '../../runtime';
import { Cancelled, byLearner } from '../files';
import type { OpenReport } from '../open';
import { reportRows, valuesOf } from '../rows';
import { writeLearner } from './learner-pages';
import { Paper } from './pages';
import { caughtUp, paperStream } from './paper-stream';
import { PaperTable, bandsOf, isTooWide } from './table';
import { QUIET } from './typeset';

export interface PdfAsked {
  title: string;
  layout: Layout;
  /** What the teacher says on each page; lines to write on where it is empty. */
  sentence?: string;
  /** Told how many learners are written, after each; false ends it. */
  onLearner?: (done: number) => Promise<boolean>;
}

/**
 * The report as a stream of PDF. Reading it drives the writing.
 * @throws in the stream: Cancelled
 */
export function reportPdf(
  runtime: Runtime,
  report: OpenReport,
  { title, layout, onLearner, sentence = '' }: PdfAsked,
): Readable {
  const { now, zone } = report.at;
  const asOf = `${sayDay(dayOf(now, zone))} ${dateOfDay(dayOf(now, zone)).slice(0, 4)}, ${sayTime(now, zone)}`;
  const people = sayCount(report.ids.length, 'learner');
  const isWide = layout === 'table' && isTooWide(report.heads);
  const paper = new Paper({ title, foot: layout === 'pages' ? `As of ${asOf}` : `As of ${asOf} · ${people}`, isWide });
  return paperStream(paper, async () => {
    if (layout === 'pages') await writePages(runtime, report, paper, { sentence, onLearner });
    else await writeTable(runtime, report, paper, { title, onLearner });
  });
}

async function writePages(
  runtime: Runtime,
  report: OpenReport,
  paper: Paper,
  { sentence, onLearner }: { sentence: string; onLearner: PdfAsked['onLearner'] },
): Promise<void> {
  let done = 0;
  for await (const rows of reportRows(runtime, report)) {
    for (const own of byLearner(rows)) {
      writeLearner(paper, report, own, sentence);
      await caughtUp(paper);
      done += 1;
      if ((await onLearner?.(done)) === false) throw new Cancelled();
    }
  }
  if (done === 0) nobody(paper);
}

async function writeTable(
  runtime: Runtime,
  report: OpenReport,
  paper: Paper,
  { title, onLearner }: Pick<PdfAsked, 'title' | 'onLearner'>,
): Promise<void> {
  const bands = bandsOf(report.heads, paper.width);
  let done = 0;
  paper.newPage();
  paper.text('H1', title, { size: 15, weight: 600 }, 2);
  paper.text('P', `A row for ${PER_WORDS[report.definition.per]}.`, { size: 8.5, color: QUIET }, 6);
  for (const [number, band] of bands.entries()) {
    if (number > 0) paper.newPage();
    const columns = band.map((at) => report.heads[at]);
    let table: PaperTable | null = null;
    // Each band reads the rows again: they are never all held.
    for await (const rows of reportRows(runtime, report)) {
      const values = rows.map((row) => {
        const all = valuesOf(report, row);
        return band.map((at) => all[at]);
      });
      if (values.length > 0) table ??= new PaperTable(paper, columns, report.at, values);
      for (const row of values) table!.add(row);
      await caughtUp(paper);
      done += byLearner(rows).length;
      if ((await onLearner?.(Math.floor(done / bands.length))) === false) throw new Cancelled();
    }
    (table ?? new PaperTable(paper, columns, report.at)).end('There are no rows.');
  }
}

function nobody(paper: Paper): void {
  paper.newPage();
  paper.text('P', 'There is nobody in this report.', { size: 10, color: QUIET });
}
