/** The access log as a list: its columns, and a page of it for the API, and its files. */
import type { LogRow } from '@/data/access/log/page';
import type { Values } from '../request/input';
import type { Viewer } from '@/data/scope';
import type { List } from '../request/list';
import type { Runtime } from '../runtime';
import { AccessLogQuery, countOpenLog, openLog, readLog } from './access-log';
import { LOG_COLUMNS } from './log-columns';
import { exportLog } from './log-export';

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
  // Far too long to be held: it is streamed from the table itself.
  file: async (runtime, viewer, values, format) => {
    const open = await openLog(runtime, viewer, { ...values, format: undefined });
    return (await exportLog(runtime, open, format === 'json' ? 'jsonl' : format)).body;
  },
} satisfies List<LogRow>;
