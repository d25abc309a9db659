/** Sources of logs, and the credentials with which they send events by themselves. */
import type { Protocol } from '@/core/feed/protocol';
import type { Db } from '../db';

export interface SourceRow {
  id: number;
  name: string;
  last_event_at: number | null;
  ahead_ms: number;
  ahead_at: number | null;
  /** When it last sent something by itself; null for one that only files bring. */
  live_at: number | null;
  courses: string[];
}

/** Every source that has brought an event or may send some, with the courses it feeds. */
export async function listSources(db: Db): Promise<SourceRow[]> {
  const rows = await db('source')
    .where((either) =>
      either
        .whereNotNull('last_event_at')
        .orWhereExists(db('source_credential').whereRaw('source_credential.source_id = source.id')),
    )
    .orderBy('name')
    .select(
      'source.*',
      db.raw(
        `(SELECT json_group_array(code) FROM (SELECT code FROM source_course JOIN course ON course.id = course_id
          WHERE source_id = source.id ORDER BY code)) AS courses`,
      ),
    );
  return rows.map((row: Omit<SourceRow, 'courses'> & { courses: string }) => ({
    ...row,
    courses: JSON.parse(row.courses),
  }));
}

export interface Credential {
  id: number;
  source_id: number;
  source: string;
  key: string;
  created_at: number;
  protocol: Protocol;
}

/** Credentials that are good now. */
export async function listCredentials(db: Db): Promise<Credential[]> {
  return db('source_credential')
    .join('source', 'source.id', 'source_credential.source_id')
    .whereNull('ended_at')
    .orderBy(['source.name', 'source_credential.id'])
    .select(
      'source_credential.id',
      'source_credential.source_id',
      'source.name as source',
      'source_credential.key',
      'source_credential.created_at',
      'source_credential.protocol',
    );
}

export async function addCredential(
  db: Db,
  source: string,
  credential: { key: string; secret_hash: string; created_at: number; staff_id: number | null; protocol: Protocol },
): Promise<number> {
  await db('source').insert({ name: source }).onConflict('name').ignore();
  const [id] = await db('source').where('name', source).pluck('id');
  const [row] = await db('source_credential')
    .insert({ ...credential, source_id: id })
    .returning('id');
  return row.id;
}

export async function closeCredential(db: Db, id: number, now: number): Promise<string | null> {
  const row = await db('source_credential').where({ id }).whereNull('ended_at').first('key');
  if (!row) return null;
  await db('source_credential').where({ id }).update({ ended_at: now });
  return row.key;
}

/** The source that a credential for a protocol is of, by its key or by the hash of its secret; null when it is none. */
export async function sourceOfCredential(
  db: Db,
  protocol: Protocol,
  secretHash: string,
  key?: string,
): Promise<{ sourceId: number; key: string } | null> {
  const row = await db('source_credential')
    .where({ protocol, secret_hash: secretHash, ...(key === undefined ? {} : { key }) })
    .whereNull('ended_at')
    .first('source_id', 'key');
  return row ? { sourceId: row.source_id, key: row.key } : null;
}

/**
 * The last event of the source that is furthest behind, of those that feed a course which has not ended; null before any.
 * @param today a course whose last day lies before it has ended
 */
export async function logsCompleteTo(db: Db, today: number): Promise<number | null> {
  const row = await db('source')
    .whereNotNull('last_event_at')
    .whereExists(
      db('source_course')
        .join('course', 'course.id', 'source_course.course_id')
        .whereRaw('source_course.source_id = source.id')
        .where((goesOn) => goesOn.whereNull('course.ends_day').orWhere('course.ends_day', '>=', today)),
    )
    .min('last_event_at as at')
    .first();
  return (row?.at as number | undefined) ?? null;
}
