/** Two records of one person made one, so that it can be undone: every row that moves is noted. */
import { withRaw, type Db, type RawConnection } from '../db';
import { PROGRESS_OF_LEARNERS, staleProgressIn } from '../completion/enrolment-progress';
import { FROM_THE_BEGINNING, noteStaleIn } from '../drift/stale';
import { derivePresenceOf } from '../sessions/presence';
import type { RowOf } from '../tables';
import { learnerInScope, wholeLearnerInScope, type Viewer } from '../scope';
import { touching } from '../access/touched';

/**
 * Tables with a learner in them whose rows do not change hands: what is derived is made anew, aliases are read through the
 * merge, and a merge itself says who was whom. Every other one does: a table that comes later is not forgotten.
 */
const NOT_MOVED: ReadonlySet<string> = new Set([
  'visit_course',
  'learner_day',
  'item_day',
  'learner_course',
  'presence',
  'presence_alias',
  'touched',
  // Whom somebody looked at is whom they looked at.
  'look',
]);

/** Every table with a learner in it whose rows change hands, by the schema. */
export function tablesMoved(raw: RawConnection): string[] {
  const tables = raw
    .prepare(
      `SELECT t.name FROM sqlite_master t JOIN pragma_table_info(t.name) c ON c.name = 'learner_id'
       WHERE t.type = 'table' ORDER BY t.name`,
    )
    .pluck()
    .all() as string[];
  return tables.filter((name) => !NOT_MOVED.has(name));
}

/** Tables in which the kept record may have the like already: then the row stays where it is. */
const MOVED_UNLESS: Partial<Record<string, { id: string; same: string }>> = {
  set_aside: {
    id: 'id',
    same: `EXISTS (SELECT 1 FROM set_aside k WHERE k.learner_id = @kept AND k.staff_id = t.staff_id
           AND k.ended_at IS NULL AND t.ended_at IS NULL)`,
  },
  staff_scope: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM staff_scope k WHERE k.learner_id = @kept AND k.staff_id = t.staff_id)',
  },
  attendance: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM attendance k WHERE k.learner_id = @kept AND k.session_id = t.session_id)',
  },
  check_in: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM check_in k WHERE k.learner_id = @kept AND k.session_id = t.session_id)',
  },
  attempt: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM attempt k WHERE k.learner_id = @kept AND k.item_id = t.item_id AND k.number = t.number)',
  },
  extension: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM extension k WHERE k.learner_id = @kept AND k.item_id = t.item_id)',
  },
  completion_override: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM completion_override k WHERE k.learner_id = @kept AND k.item_id = t.item_id)',
  },
  response: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM response k WHERE k.learner_id = @kept AND k.question_id = t.question_id AND k.attempt = t.attempt)',
  },
  platform_snapshot: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM platform_snapshot k WHERE k.learner_id = @kept AND k.course_id = t.course_id AND k.made_at = t.made_at)',
  },
  watched: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM watched k WHERE k.learner_id = @kept AND k.item_id = t.item_id AND k.at = t.at)',
  },
  draft_recipient: {
    id: 'draft_id',
    same: 'EXISTS (SELECT 1 FROM draft_recipient k WHERE k.learner_id = @kept AND k.draft_id = t.draft_id)',
  },
  caseload_learner: {
    id: 'caseload_id',
    same: 'EXISTS (SELECT 1 FROM caseload_learner k WHERE k.learner_id = @kept AND k.caseload_id = t.caseload_id)',
  },
  wish: {
    id: 'wish',
    same: 'EXISTS (SELECT 1 FROM wish k WHERE k.learner_id = @kept AND k.wish = t.wish)',
  },
  erasure: {
    id: 'id',
    same: `EXISTS (SELECT 1 FROM erasure k WHERE k.learner_id = @kept AND k.taken_back_at IS NULL AND t.taken_back_at IS NULL)`,
  },
  enrolment: {
    id: 'id',
    same: 'EXISTS (SELECT 1 FROM enrolment k WHERE k.learner_id = @kept AND k.course_id = t.course_id)',
  },
};

/** What a learner's record takes from the one that goes, where it has nothing itself. */
const FILLED = ['email', 'phone', 'organisation_id', 'preferred_channel', 'timezone'] as const;
type Filled = Pick<RowOf<'learner'>, (typeof FILLED)[number]>;
type Enrolment = Pick<RowOf<'enrolment'>, 'id' | 'status' | 'enrolled_day' | 'ended_day' | 'group_id'>;

/** What a merge changed beside moving rows: the values before. */
interface MergeRecord {
  kept: Filled;
  enrolments: Enrolment[];
  /** Records that had been merged into the one that goes. */
  earlier: number[];
}

/** Both records, when the viewer sees everything of each; else null, as if one did not exist. */
export async function wholeRecords(db: Db, viewer: Viewer, ids: readonly [number, number]): Promise<boolean> {
  const rows = await db('learner')
    .whereIn('learner.id', ids)
    .whereNull('merged_into')
    .where(learnerInScope(db, viewer))
    .where(wholeLearnerInScope(viewer))
    .pluck('learner.id');
  return rows.length === 2;
}

async function move(trx: Db, mergeId: number, table: string, id: string, kept: number, gone: number, unless = '0') {
  await trx.raw(
    `INSERT INTO merge_row (merge_id, table_name, row_id)
     SELECT :mergeId, :table, t.${id} FROM ${table} t WHERE t.learner_id = :gone AND NOT (${unless.replaceAll('@kept', ':kept')})`,
    { mergeId, table, gone, kept },
  );
  await trx.raw(
    `UPDATE ${table} SET learner_id = :kept WHERE learner_id = :gone AND ${id} IN (
       SELECT row_id FROM merge_row WHERE merge_id = :mergeId AND table_name = :table)`,
    { mergeId, table, gone, kept },
  );
}

/** Has the figures of some learners derived anew, over all that the log has of them now or had before. */
async function touch(trx: Db, ids: readonly number[]): Promise<void> {
  const all = JSON.stringify(ids);
  await trx.raw(
    touching(
      `SELECT own.value, span.first, span.last FROM json_each(?) AS own, (SELECT min(at) AS first, max(at) AS last
       FROM event WHERE learner_id IN (SELECT value FROM json_each(?))) AS span WHERE span.first IS NOT NULL`,
    ),
    [all, all],
  );
}

/** Has standings and drift of some learners made anew. */
async function staleAll(trx: Db, ids: readonly number[]): Promise<void> {
  const learners = JSON.stringify(ids);
  await staleProgressIn(trx, PROGRESS_OF_LEARNERS, { learners });
  const enrolmentsSql =
    'SELECT id, @fromDay FROM enrolment WHERE learner_id IN (SELECT value FROM json_each(@learners))';
  await noteStaleIn(trx, enrolmentsSql, { fromDay: FROM_THE_BEGINNING, learners });
}

/** Merges `gone` into `kept`. Returns the merge's id. */
export async function mergeRecords(
  trx: Db,
  { kept, gone, staffId, at }: { kept: number; gone: number; staffId: number | null; at: number },
): Promise<number> {
  const [added] = await trx('merge')
    .insert({ kept_id: kept, gone_id: gone, staff_id: staffId, at, record: '{}' })
    .returning('id');
  const mergeId: number = added.id;
  await touch(trx, [kept, gone]);
  for (const table of await withRaw(trx, tablesMoved)) {
    const { id = 'id', same } = MOVED_UNLESS[table] ?? {};
    await move(trx, mergeId, table, id, kept, gone, same);
  }

  // What is left of the enrolments are those in courses that both records are in.
  const left = await trx('enrolment').where('learner_id', gone);
  const enrolments: MergeRecord['enrolments'] = [];
  for (const leftRow of left) {
    const [other] = await trx('enrolment').where({ learner_id: kept, course_id: leftRow.course_id });
    for (const row of [leftRow, other]) {
      const { id, status, enrolled_day, ended_day, group_id } = row;
      enrolments.push({ id, status, enrolled_day, ended_day, group_id });
    }
    const active = leftRow.status === 'active' || other.status === 'active';
    await trx('enrolment')
      .where('id', other.id)
      .update({
        status: active ? 'active' : other.status,
        ended_day: active ? null : other.ended_day,
        enrolled_day: Math.min(leftRow.enrolled_day, other.enrolled_day),
        group_id: other.group_id ?? leftRow.group_id,
      });
    await trx('enrolment').where('id', leftRow.id).update({ status: 'merged' });
  }
  const [before] = await trx('learner')
    .where('id', kept)
    .select(...FILLED);
  const [from] = await trx('learner')
    .where('id', gone)
    .select(...FILLED);
  const filled: Partial<Filled> = Object.fromEntries(FILLED.map((name) => [name, before[name] ?? from[name]]));
  await trx('learner').where('id', kept).update(filled);
  const earlier: number[] = await trx('learner').where('merged_into', gone).pluck('id');
  await trx('learner')
    .whereIn('id', [gone, ...earlier])
    .update({ merged_into: kept });
  await withRaw(trx, (raw) => derivePresenceOf(raw, [kept, gone]));
  await staleAll(trx, [kept, gone]);
  const record: MergeRecord = { kept: before, enrolments, earlier };
  await trx('merge')
    .where('id', mergeId)
    .update({ record: JSON.stringify(record) });
  return mergeId;
}

/** The last merge into a learner that has not been undone, with who it was. */
export async function lastMerge(
  db: Db,
  keptId: number,
): Promise<{ id: number; kept_id: number; gone_id: number; gone: string; at: number } | null> {
  const row = await db('merge')
    .join('learner as gone', 'gone.id', 'merge.gone_id')
    .where('kept_id', keptId)
    .whereNull('undone_at')
    .orderBy('merge.id', 'desc')
    .first('merge.id', 'merge.kept_id', 'merge.gone_id', 'merge.at', 'gone.external_id as gone');
  return row ?? null;
}

/** Takes a merge apart again: what was moved goes back, what came since stays with the kept record. */
export async function undoMerge(trx: Db, mergeId: number, at: number): Promise<void> {
  const [{ kept_id: kept, gone_id: gone, record }] = await trx('merge').where('id', mergeId);
  const { kept: before, enrolments, earlier }: MergeRecord = JSON.parse(record);
  await touch(trx, [kept, gone]);
  for (const table of await withRaw(trx, tablesMoved)) {
    const { id = 'id' } = MOVED_UNLESS[table] ?? {};
    await trx.raw(
      `UPDATE ${table} SET learner_id = :gone WHERE learner_id = :kept AND ${id} IN (
         SELECT row_id FROM merge_row WHERE merge_id = :mergeId AND table_name = :table)`,
      { mergeId, table, gone, kept },
    );
  }
  for (const { id, ...values } of enrolments) await trx('enrolment').where({ id }).update(values);
  await trx('learner').where('id', kept).update(before);
  await trx('learner').where('id', gone).update({ merged_into: null });
  await trx('learner').whereIn('id', earlier).update({ merged_into: gone });
  await withRaw(trx, (raw) => derivePresenceOf(raw, [kept, gone]));
  await staleAll(trx, [kept, gone]);
  await trx('merge_row').where('merge_id', mergeId).delete();
  await trx('merge').where('id', mergeId).update({ undone_at: at });
}
