/** How the installation is doing, in numbers: nothing of anybody. */
import type { RawConnection } from './db';

/** What waits, by its queue: each counted by an index. */
const QUEUES = {
  imports: `SELECT count(*) FROM import_run WHERE state IN ('waiting', 'running')`,
  messages: `SELECT count(*) FROM message WHERE state = 'queued'`,
  statements: `SELECT count(*) FROM statement WHERE state = 'waiting'`,
  reports: `SELECT count(*) FROM report_run WHERE state IN ('waiting', 'running')`,
  report_mails: `SELECT count(*) FROM report_sending WHERE state = 'waiting'`,
  account_mails: `SELECT count(*) FROM password_link WHERE sent_at IS NULL AND ended_at IS NULL`,
  archives: `SELECT count(*) FROM archive WHERE state <> 'done'`,
  erasures: `SELECT count(*) FROM erasure WHERE done_at IS NULL AND taken_back_at IS NULL`,
  to_derive: `SELECT count(*) FROM touched`,
} as const;

export type Queue = keyof typeof QUEUES;

export function queueLengths(raw: RawConnection): [Queue, number][] {
  return Object.entries(QUEUES).map(([queue, sql]) => [queue as Queue, raw.prepare(sql).pluck().get() as number]);
}

/** Imports that are looked at for what came lately. */
const LATEST_RUNS = 1000;

/** Rows of files that came since an instant, by what became of them. */
export function rowsImported(
  raw: RawConnection,
  since: number,
): { accepted: number; duplicate: number; rejected: number } {
  return raw
    .prepare(
      `SELECT ifnull(sum(accepted), 0) AS accepted, ifnull(sum(duplicate), 0) AS duplicate, ifnull(sum(rejected), 0) AS rejected
       FROM (SELECT * FROM import_run ORDER BY id DESC LIMIT ${LATEST_RUNS}) WHERE created_at >= ?`,
    )
    .get(since) as { accepted: number; duplicate: number; rejected: number };
}

/** When each source last brought an event, and last sent something by itself. */
export function sourceTimes(
  raw: RawConnection,
): { name: string; last_event_at: number | null; live_at: number | null }[] {
  return raw
    .prepare('SELECT name, last_event_at, live_at FROM source WHERE last_event_at IS NOT NULL ORDER BY name')
    .all() as { name: string; last_event_at: number | null; live_at: number | null }[];
}

/** Bytes of the database's pages, of those that hold nothing, and how many learners and staff there are. */
export function sizes(raw: RawConnection): { bytes: number; free: number; learners: number; staff: number } {
  const page = raw.pragma('page_size', { simple: true }) as number;
  const count = (table: string) => raw.prepare(`SELECT count(*) FROM ${table}`).pluck().get() as number;
  return {
    bytes: page * (raw.pragma('page_count', { simple: true }) as number),
    free: page * (raw.pragma('freelist_count', { simple: true }) as number),
    learners: count('learner'),
    staff: count('staff'),
  };
}
