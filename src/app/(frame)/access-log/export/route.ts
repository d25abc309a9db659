import { own } from '@/server/request/api';
import { LOG_FORMATS, type LogFormat } from '@/server/access/log-export';
import { logFile } from '@/server/access/log-file';
import { ACCESS_LOG } from '@/server/access/log-list';
import { askedOf, listParams } from '@/server/request/list';

/** Exactly the log that is shown, as a file. */
export const GET = own(async ({ runtime, viewer, query }) => {
  const format: LogFormat = LOG_FORMATS.find((format) => format === query.format) ?? 'csv';
  return logFile(
    runtime,
    viewer,
    { ...askedOf(ACCESS_LOG, listParams(ACCESS_LOG, query)), export: query.export ?? '' },
    format,
  );
});
