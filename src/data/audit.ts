/** Who changed what, and when. */
import { AsyncLocalStorage } from 'node:async_hooks';
import { countOf, maxOf, type Db, type RawConnection } from './db';
import { freeText, personColumns, staffName } from './person';
import { learnerInScope, wordsInScope, type Viewer } from './scope';

/** A change that tells of a promise: for those alone who read promises. */
export const OF_FOLLOW_UPS = 'handed over a follow-up';

/** A field's old and new value. */
export type Changes = Record<string, [before: string | number | null, after: string | number | null]>;

export interface NewAudit {
  at: number;
  staff_id: number | null;
  learner_id?: number | null;
  course_id?: number | null;
  /** What was done, as a verb in the past: "moved group". */
  what: string;
  /** To what, in words. */
  subject: string;
  changes?: Changes;
}

const means = new AsyncLocalStorage<string | null>();

/** Does some work whose changes are on record as made by something: a token, or the shell; null for a browser. */
export function onRecordAs<T>(via: string | null, work: () => T): T {
  return means.run(via, work);
}

const stored = ({ changes, ...row }: NewAudit) => ({
  ...row,
  staff_id: row.staff_id || null,
  changes: JSON.stringify(changes ?? {}),
  via: means.getStore() ?? null,
});

export async function addAudit(trx: Db, audit: NewAudit): Promise<void> {
  await trx('audit').insert(stored(audit));
}

/** The same of many at once. */
export async function addAudits(trx: Db, audits: readonly NewAudit[]): Promise<void> {
  await trx.batchInsert('audit', audits.map(stored), 100);
}

/** The last change there was: a later one has another id. */
export async function lastChange(db: Db): Promise<number> {
  return (await maxOf(db('audit'), 'id')) ?? 0;
}

export interface AuditRow {
  id: number;
  at: number;
  by: string | null;
  /** By what it was made, where that was no browser: a token, or the shell. */
  via: string | null;
  learner_id: string | null;
  name: string | null;
  course: string | null;
  what: string;
  subject: string;
  changes: Changes;
}

export interface AuditSearch {
  learnerId?: number;
  /** Not after this instant. */
  until?: number;
  limit: number;
  offset?: number;
}

/** Changes to learners in scope, newest first; for somebody who sees everyone, all the others too. */
export async function findAudit(
  db: Db,
  viewer: Viewer,
  search: AuditSearch,
): Promise<{ rows: AuditRow[]; total: number }> {
  const { id, name } = personColumns(viewer);
  const query = () =>
    db('audit')
      .leftJoin('learner', 'learner.id', 'audit.learner_id')
      .where((any) => any.whereNot('audit.what', OF_FOLLOW_UPS).orWhere(wordsInScope(viewer, 'audit.staff_id')))
      .where((seen) => {
        if (!viewer.all) seen.whereNotNull('audit.learner_id').where(learnerInScope(db, viewer));
      })
      .where((seen) => {
        // A change in a course is that course's: somebody limited to another does not see it.
        if (viewer.all) return;
        seen.whereNull('audit.course_id').orWhereExists(
          db('enrolment as e')
            .whereRaw('e.learner_id = audit.learner_id AND e.course_id = audit.course_id')
            .where((own) => {
              own.whereIn('e.course_id', viewer.courses);
              own.orWhereIn('e.group_id', viewer.groups);
              own.orWhereIn('e.learner_id', viewer.learners);
              own.orWhereIn('learner.organisation_id', viewer.organisations);
            }),
        );
      })
      .modify((q) => {
        if (search.learnerId !== undefined) q.where('audit.learner_id', search.learnerId);
        if (search.until !== undefined) q.where('audit.at', '<=', search.until);
      });
  const total = await countOf(query());
  const rows = await query()
    .leftJoin('staff', 'staff.id', 'audit.staff_id')
    .leftJoin('course', 'course.id', 'audit.course_id')
    .orderBy([
      { column: 'audit.at', order: 'desc' },
      { column: 'audit.id', order: 'desc' },
    ])
    .limit(search.limit)
    .offset(search.offset ?? 0)
    .select(
      'audit.id',
      'audit.at',
      db.raw(`${staffName(viewer)} AS "by"`),
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${id} END AS learner_id`),
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${name} END AS name`),
      'course.code as course',
      'audit.what',
      db.raw(`${freeText(viewer, 'audit.via')} AS via`),
      db.raw(`${freeText(viewer, 'audit.subject')} AS subject`),
      viewer.standInKey === null ? 'audit.changes' : db.raw("'{}' AS changes"),
    );
  return {
    rows: rows.map((row: Omit<AuditRow, 'changes'> & { changes: string }) => ({
      ...row,
      changes: JSON.parse(row.changes),
    })),
    total,
  };
}

/** Adds one after the other, within work on the connection itself. */
export function auditAdder(raw: RawConnection): (audit: NewAudit) => void {
  const insert = raw.prepare(
    `INSERT INTO audit (at, staff_id, learner_id, course_id, what, subject, changes, via)
     VALUES (@at, @staff_id, @learner_id, @course_id, @what, @subject, @changes, @via)`,
  );
  return (audit) => insert.run({ learner_id: null, course_id: null, ...stored(audit) });
}
