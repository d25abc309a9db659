/** The access log as a list: its columns, and a page of it for the API, and its files. */
import type { LogRow } from '@/data/access/log/page';
import { InvalidInput, type Values } from '../request/input';
import type { Viewer } from '@/data/scope';
import { figuresOf, type List } from '../request/list';
import type { Runtime } from '../runtime';
import { AccessLogQuery, countOpenLog, openLog, readLog } from './access-log';
import { LOG_COLUMNS } from './log-columns';
import { LOG_FORMATS, exportLog } from './log-export';
import { isLogFormat, logFile } from './log-file';

async function readPage(runtime: Runtime, viewer: Viewer, values: Values, withTotal = true) {
  const open = await openLog(runtime, viewer, values);
  const { limit = '100', cursor } = open.query;
  const [page, count] = await Promise.all([
    readLog(runtime, open, { limit: Number(limit), cursor }),
    withTotal ? countOpenLog(runtime, open) : { total: 0, about: true, days: [] },
  ]);
  return { ...count, rows: page.rows, next: page.older, query: open.query, now: open.view.now, zone: runtime.zone };
}

/** A row as the page shows it. */
export type LogLine = Omit<LogRow, 'person' | 'source_id'> & { who: string; staff: boolean };

export function logLine(read: LogRow): LogLine {
  const { id, at, learner_id, name, course, item_id, item, action, kind, address, person } = read;
  const row = { id, at, learner_id, name, course, item_id, item, action, kind, address };
  return { ...row, staff: person === null, who: `${person === null ? 'staff' : 'learner'} ${row.learner_id}` };
}

export const ACCESS_LOG = {
  name: 'access-log',
  path: '/access-log',
  query: AccessLogQuery,
  columns: LOG_COLUMNS,
  line: logLine,
  read: readPage,
  answer: logAnswer,
  // Far too long to be held: it is streamed from the table itself.
  file: async (runtime, viewer, values, format) => {
    const open = await openLog(runtime, viewer, { ...values, format: undefined });
    return (await exportLog(runtime, open, format === 'json' ? 'jsonl' : format)).body;
  },
} satisfies List<LogRow>;

/** The API's answer: a page with its total, or a file of all. @throws InvalidInput, NotFound */
async function logAnswer(runtime: Runtime, viewer: Viewer, values: Record<string, string>): Promise<Response> {
  if (values.format !== undefined && isLogFormat(values.format)) return logFile(runtime, viewer, values, values.format);
  if (values.format !== undefined && values.format !== 'json' && values.format !== '') {
    throw new InvalidInput([{ field: 'format', message: `is not one of json, ${LOG_FORMATS.join(', ')}` }]);
  }
  const read = await ACCESS_LOG.read(runtime, viewer, values);
  return Response.json({
    data: read.rows.map((row) => figuresOf(ACCESS_LOG, row, read)),
    next: read.next,
    total: read.total,
    // An estimate says so; otherwise the total is exact.
    ...(read.about ? { about: true } : {}),
  });
}
