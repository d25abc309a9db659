/** Whether the database's own pages are whole. */
import type { RawConnection } from './db';

/** Every table that holds data. */
export function tablesOf(raw: RawConnection): string[] {
  return raw.prepare("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name").pluck().all() as string[];
}

/** What is wrong with a table's pages, a line for each; a table that cannot be read at all is one line too. */
export function checkTable(raw: RawConnection, table: string): string[] {
  try {
    const lines = raw.pragma(`integrity_check('${table}')`) as { integrity_check: string }[];
    return lines.map((line) => line.integrity_check).filter((line) => line !== 'ok');
  } catch (error) {
    return [`cannot be read: ${(error as { code?: string }).code ?? 'damaged'}`];
  }
}
