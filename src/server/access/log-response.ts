/** Answers that carry the access log: a page as JSON, or the whole as a streamed file. */
import { Readable } from 'node:stream';
import type { Viewer } from '@/data/scope';
import { openLog } from './access-log';
import { ACCESS_LOG } from './log-list';
import { InvalidInput } from '../request/input';
import { figuresOf } from '../request/list';
import { LOG_FORMATS, exportLog, type LogFormat } from './log-export';
import type { Runtime } from '../runtime';

function isLogFormat(format: string): format is LogFormat {
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

/** The API's answer: a page with its total, or a file of all. @throws InvalidInput, NotFound */
export async function logResponse(runtime: Runtime, viewer: Viewer, values: Record<string, string>): Promise<Response> {
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
