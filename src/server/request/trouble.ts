/** Faults of the machine that a person can be told of in plain words. */
import { BUSY, isGivenUp } from '@/data/db';

export interface Trouble {
  status: 503 | 507;
  title: string;
  detail: string;
  /** Seconds after which trying again is of use. */
  retryAfter?: number;
}

/** Drift of a past day has not been read yet, and was not in time. */
export class NotReadYet extends Error {
  constructor() {
    super('Drift of this day is being read and is not all there yet. Ask again.');
  }
}

/** What an error means to whoever met it; null for one that nobody foresaw. */
export function troubleOf(error: unknown): Trouble | null {
  if (error instanceof NotReadYet) return { status: 503, title: 'Being read', detail: error.message, retryAfter: 5 };
  if (isGivenUp(error)) return { status: 503, title: 'Busy', detail: BUSY, retryAfter: 5 };
  const code = String((error as { code?: unknown } | null)?.code ?? '');
  if (code === 'ENOSPC' || code === 'SQLITE_FULL') {
    return {
      status: 507,
      title: 'Disk full',
      detail: 'The disk is full, so nothing was stored or changed. Try again when there is room.',
    };
  }
  if (code === 'SQLITE_CORRUPT' || code === 'SQLITE_NOTADB') {
    return {
      status: 503,
      title: 'Database damaged',
      detail:
        'The database is damaged, so this cannot be shown or stored. Whoever runs Lee Shore has to put a backup in its place.',
    };
  }
  return null;
}
