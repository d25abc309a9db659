import { join } from 'node:path';
import { Readable } from 'node:stream';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { makeBackup } from '../backup/make';
import { bringIn, logOf, smallRuntime, type TestRuntime } from '../testing';
import { receiveFile } from '../imports/receive';
import { SYSTEM_VIEWER } from '../system-viewer';
import { metricsText } from './metrics';

let runtime: TestRuntime;

beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-24T09:00:00Z,L1,DRY,D1,opened']);
});
afterEach(() => runtime.close());

/** The figure of a name, with its label where it has one. */
async function figure(name: string): Promise<number | undefined> {
  const { text } = await metricsText(runtime);
  const line = text.split('\n').find((one) => one.startsWith(`${name} `));
  return line === undefined ? undefined : Number(line.slice(name.length + 1));
}

it('is the open text format, each figure with what it is', async () => {
  const { type, text } = await metricsText(runtime);
  expect(type).toMatch(/^text\/plain; version=0\.0\.4/);
  for (const line of text.split('\n').filter(Boolean))
    expect(line).toMatch(/^(# (HELP|TYPE) leeshore_\w+ .+|leeshore_\w+(\{\w+="[^"]*"\})? -?[\d.e+]+)$/);
});

it('tells what waits, what came, how old the feeds are and how large it is', async () => {
  expect(await figure('leeshore_learners')).toBe(5);
  expect(await figure('leeshore_queue_length{queue="imports"}')).toBe(0);
  expect(await figure('leeshore_feed_age_seconds{source="files"}')).toBe(600);
  expect(await figure('leeshore_import_rows_last_hour{outcome="accepted"}')).toBeGreaterThan(10);
  const before = (await figure('leeshore_import_rows_last_hour{outcome="duplicate"}'))!;
  await bringIn(runtime, 'access-log', logOf(['2026-11-24T09:00:00Z,L1,DRY,D1,opened']));
  expect(await figure('leeshore_import_rows_last_hour{outcome="duplicate"}')).toBe(before + 1);
  const file = Readable.from([Buffer.from(logOf(['2026-11-24T09:05:00Z,L1,DRY,D1,opened']))]);
  await receiveFile(runtime, SYSTEM_VIEWER, { kind: 'access-log' }, file);
  expect(await figure('leeshore_queue_length{queue="imports"}')).toBe(1);
  runtime.setNow('2026-11-24T11:00:00Z');
  expect(await figure('leeshore_import_rows_last_hour{outcome="accepted"}')).toBe(0);
});

it('tells of the newest backup, once there is one', async () => {
  expect(await figure('leeshore_backup_age_seconds')).toBeUndefined();
  await makeBackup(runtime, join(runtime.settings.dataDir, 'a.sqlite'));
  runtime.setNow('2026-11-25T09:10:00Z');
  expect(await figure('leeshore_backup_age_seconds')).toBe(86_400);
  expect(await figure('leeshore_backup_whole')).toBe(0);
});

it('names nobody', async () => {
  const { text } = await metricsText(runtime);
  expect(text).not.toMatch(/Marrow|Ines|L1\b|learner\.example|Hesper|staff\.example/);
});
