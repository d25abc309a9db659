/**
 * Figures for whoever keeps it running, in the open text format of metrics: of the process, of what waits, of what comes in, of
 * the feeds and the backups. Nothing in them is of a person.
 */
import { Gauge, Registry, register } from 'prom-client';
import { HOUR } from '@/core/time/zone';
import { withRaw } from '@/data/db';
import { queueLengths, rowsImported, sizes, sourceTimes } from '@/data/metrics';
import { backupsMade } from '../backup/made';
import type { Runtime } from '../runtime';

interface Figure {
  name: string;
  help: string;
  /** By what it is told apart. */
  label?: string;
  values: readonly (readonly [label: string | null, value: number])[];
}

const seconds = (from: number, to: number) => Math.max(0, (to - from) / 1000);

async function figures(runtime: Runtime): Promise<Figure[]> {
  const { db, clock } = runtime;
  const now = clock.now();
  const [backup] = await backupsMade(runtime);
  const read = await withRaw(db, (raw) => ({
    queues: queueLengths(raw),
    rows: Object.entries(rowsImported(raw, now - HOUR)),
    sources: sourceTimes(raw),
    sizes: sizes(raw),
  }));
  return [
    { name: 'leeshore_queue_length', help: 'What waits to be done', label: 'queue', values: read.queues },
    {
      name: 'leeshore_import_rows_last_hour',
      help: 'Rows of files that came in the last hour, by what became of them',
      label: 'outcome',
      values: read.rows,
    },
    {
      name: 'leeshore_feed_age_seconds',
      help: 'Time since the last event of a source',
      label: 'source',
      values: read.sources.map(({ name, last_event_at }) => [name, seconds(last_event_at ?? now, now)] as const),
    },
    {
      name: 'leeshore_feed_sent_age_seconds',
      help: 'Time since a source last sent something by itself',
      label: 'source',
      values: read.sources.flatMap(({ name, live_at }) =>
        live_at === null ? [] : [[name, seconds(live_at, now)] as const],
      ),
    },
    { name: 'leeshore_database_bytes', help: 'Size of the database', values: [[null, read.sizes.bytes]] },
    { name: 'leeshore_database_free_bytes', help: 'Of it, pages that hold nothing', values: [[null, read.sizes.free]] },
    { name: 'leeshore_learners', help: 'Learners', values: [[null, read.sizes.learners]] },
    { name: 'leeshore_staff', help: 'Staff', values: [[null, read.sizes.staff]] },
    ...(backup
      ? [
          {
            name: 'leeshore_backup_age_seconds',
            help: 'Time since the newest backup was made',
            values: [[null, seconds(backup.at, now)] as const],
          },
          {
            name: 'leeshore_backup_whole',
            help: 'Was the newest backup put back and found whole? 0 also where nobody has looked',
            values: [[null, backup.checked?.problems.length === 0 ? 1 : 0] as const],
          },
        ]
      : []),
  ];
}

/** All of it, as text. */
export async function metricsText(runtime: Runtime): Promise<{ type: string; text: string }> {
  const own = new Registry();
  for (const { name, help, label, values } of await figures(runtime)) {
    const gauge = new Gauge({ name, help, labelNames: label ? [label] : [], registers: [own] });
    for (const [of, value] of values) gauge.set(label ? { [label]: of ?? '' } : {}, value);
  }
  // What the server itself counts: requests, and what the process uses.
  return { type: register.contentType, text: await Registry.merge([own, register]).metrics() };
}
