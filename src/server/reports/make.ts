/** Making a report's file: beside a server in the thread for files, else here. */
import type { Readable } from 'node:stream';
import { fileFromThread, type ReportAsked } from '../request/file-thread';
import { takeTurn } from '../request/turns';
import type { Runtime } from '../runtime';
import { reportFile } from './files';
import { openReport } from './open';
import { reportPdf } from './paper/report-pdf';

/** A report's file made in this thread. @throws InvalidInput as openReport does */
export async function reportHere(
  runtime: Runtime,
  { report, title, viewer, format, layout }: ReportAsked,
  onLearner?: (done: number) => Promise<boolean>,
): Promise<Readable> {
  const open = await openReport(runtime, viewer, report);
  if (format === 'pdf') return reportPdf(runtime, open, { title, layout, onLearner });
  return reportFile(runtime, open, format, { title, layout, onLearner });
}

/** The same, two at a time for each account, and in a thread of its own beside a server. @throws InvalidInput */
export async function makeFile(runtime: Runtime, asked: ReportAsked): Promise<Readable> {
  const end = await takeTurn(asked.viewer.staffId);
  try {
    const file = (await fileFromThread(asked)) ?? (await reportHere(runtime, asked));
    return file.once('close', end);
  } catch (error) {
    end();
    throw error;
  }
}
