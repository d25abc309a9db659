/** The access log as a file, streamed. */
import { Readable } from 'node:stream';
import type { Viewer } from '@/data/scope';
import { openLog } from './access-log';
import { LOG_FORMATS, exportLog, type LogFormat } from './log-export';
import type { Runtime } from '../runtime';

export function isLogFormat(format: string): format is LogFormat {
  return (LOG_FORMATS as readonly string[]).includes(format);
}

/** The log as a file. @throws InvalidInput, NotFound */
export async function logFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Record<string, string>,
  format: LogFormat,
): Promise<Response> {
  // The list's own formats are others.
  const open = await openLog(runtime, viewer, { ...values, format: undefined });
  const id = /^[0-9a-f-]{36}$/.test(values.export ?? '') ? values.export : undefined;
  const { body, type, fileName } = await exportLog(runtime, open, format, id);
  return new Response(Readable.toWeb(body) as ReadableStream, {
    headers: { 'content-type': type, 'content-disposition': `attachment; filename="${fileName}"` },
  });
}
