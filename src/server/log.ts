/** The application's log: lines of JSON that hold no values, texts, addresses or hashes. */
import pino, { type Logger } from 'pino';

/**
 * What is logged of an error: its kind, what it says and where it came about. Of one from the
 * database only what SQLite says, which names tables and columns: the statement may hold anything.
 */
export function errorLine(error: unknown): Record<string, unknown> {
  if (!(error instanceof Error)) return { type: typeof error };
  const { code } = error as { code?: unknown };
  const ofDatabase = typeof code === 'string' && code.startsWith('SQLITE_');
  const message = ofDatabase
    ? error.message.slice(error.message.lastIndexOf(' - ') + 1).replace(/^- /, '')
    : error.message;
  const stack = (error.stack ?? '').split('\n').filter((line) => /^\s+at /.test(line));
  return { type: error.name, ...(code === undefined ? {} : { code }), message, stack: stack.join('\n') };
}

export function openLog(level: string): Logger {
  return pino({
    level,
    base: undefined,
    timestamp: pino.stdTimeFunctions.isoTime,
    serializers: { err: errorLine },
  });
}
