/** What came of being in touch, as a report on paper. */
import type { Readable } from 'node:stream';
import { WORKS_HEADS, WORKS_LIMITS, WORKS_SAYS, sayWorked, sayWorksOf } from '@/core/contact/works-words';
import type { Viewer } from '@/data/scope';
import { partsPdf } from '../reports/paper/parts-pdf';
import { askedOf, listParams, sentencesOf, type Params } from '../request/list';
import type { Runtime } from '../runtime';
import { DOES_IT_WORK, doesItWork } from './does-it-work';

const COLUMNS = ['', ...WORKS_HEADS].map((title) => ({ title, kind: 'text' as const }));

/** The list of what came of contacts, whole, with its limits under it, as PDF. @throws InvalidInput, NotFound */
export async function doesItWorkReport(runtime: Runtime, viewer: Viewer, asked: Params): Promise<Readable> {
  const params = listParams(DOES_IT_WORK, asked);
  const list = await doesItWork(runtime, viewer, { ...askedOf(DOES_IT_WORK, params), limit: '1000' });
  const all = list.all === null ? [] : [{ ...list.all, of: 'all together' }];
  const named = list.rows.map((row) => ({ ...row, of: sayWorksOf(params.by ?? 'channel', row.of) }));
  const rows = [...named, ...all].map((row) => [
    row.of,
    ...sayWorked(row).map(({ says, beside }) => (beside === '' ? says : `${says} (${beside})`)),
  ]);
  const filters = sentencesOf(DOES_IT_WORK, params).map(({ says }) => `${says}.`);
  const part = { says: [...filters, WORKS_SAYS].join(' '), table: { columns: COLUMNS, rows }, note: WORKS_LIMITS };
  return partsPdf('Does it work?', [part], { now: list.now, zone: list.zone });
}
