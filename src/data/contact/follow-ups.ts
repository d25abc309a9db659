/** What somebody promised to look at again. */
import { firstEventAfter } from './signs';
import { snapshotFor, type Outcome, type Snapshot, type StoredSnapshot } from '@/core/contact/follow-up';
import { countOf, type Db } from '../db';
import { freeText, personColumns, staffName } from '../person';
import {
  enrolmentInScope,
  learnerInSegment,
  learnerInScope,
  wordsInScope,
  type ViewScope,
  type Viewer,
} from '../scope';
import { isStaffMember } from '@/core/staff/rights';
import { idList } from '../view';

export interface FollowUpRow {
  id: number;
  person: number;
  learner_id: string;
  name: string;
  phone: string | null;
  owner_id: number;
  owner: string;
  created_at: number;
  due_day: number;
  reason: string;
  snapshot: Snapshot;
  closed_at: number | null;
  outcome: Outcome | null;
  /** The learner's first event since it was made, in the courses in view. */
  first_after: number | null;
  /** The latest contact attempt since the one it was made with. */
  attempt_at: number | null;
  answer_at: number | null;
}

export interface FollowUpSearch {
  /** Whose; everybody's in scope when undefined. */
  ownerId?: number;
  learnerId?: number;
  state: 'open' | 'closed' | 'any';
  /** Made not after this instant. */
  until?: number;
  limit: number;
}

/** A contact and the follow-up made with it are this close together at most, in ms. */
const SAME_MOMENT = 60_000;

/** Follow-ups on learners in scope: open ones by their day, closed ones newest first. */
export async function findFollowUps(
  db: Db,
  { viewer, segment }: ViewScope,
  search: FollowUpSearch,
): Promise<FollowUpRow[]> {
  const { id, name, phone } = personColumns(viewer);
  const firstAfter = firstEventAfter(db, viewer, { learner: 'f.learner_id', at: 'f.created_at' });
  const rows = await db('follow_up as f')
    .join('learner', 'learner.id', 'f.learner_id')
    .join('staff', 'staff.id', 'f.owner_id')
    .where(learnerInScope(db, viewer))
    .where(wordsInScope(viewer, 'f.owner_id', 'f.made_by'))
    .where(learnerInSegment(db, segment))
    .modify((query) => {
      if (search.ownerId !== undefined) query.where('f.owner_id', search.ownerId);
      if (search.learnerId !== undefined) query.where('f.learner_id', search.learnerId);
      if (search.until !== undefined) query.where('f.created_at', '<=', search.until);
      if (search.state === 'open') query.whereNull('f.closed_at').orderBy(['f.due_day', 'f.id']);
      else if (search.state === 'closed') query.whereNotNull('f.closed_at').orderByRaw('f.closed_at DESC, f.id DESC');
      else query.orderByRaw('f.created_at DESC, f.id DESC');
    })
    .limit(search.limit)
    .select(
      'f.id',
      'learner.id as person',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      db.raw(`${phone} AS phone`),
      'f.owner_id',
      db.raw(`${staffName(viewer)} AS owner`),
      'f.created_at',
      'f.due_day',
      db.raw(`${freeText(viewer, 'f.reason')} AS reason`),
      'f.snapshot',
      'f.made_by',
      db('enrolment as own')
        .whereRaw('own.learner_id = f.learner_id')
        .where(enrolmentInScope(viewer, 'own'))
        .select(db.raw('json_group_array(own.course_id)'))
        .as('seen_courses'),
      'f.closed_at',
      'f.outcome',
      firstAfter.as('first_after'),
      db.raw(
        `(SELECT max(at) FROM contact_attempt a WHERE a.learner_id = f.learner_id AND a.at >= f.created_at - ${SAME_MOMENT}) AS attempt_at`,
      ),
      db.raw(
        `(SELECT max(received_at) FROM learner_answer r WHERE r.learner_id = f.learner_id
          AND r.received_at >= f.created_at) AS answer_at`,
      ),
    );
  return rows.map(({ snapshot, made_by, seen_courses, ...row }: StoredRow) => ({
    ...row,
    snapshot: readSnapshot(JSON.parse(snapshot), JSON.parse(seen_courses), viewer.all || made_by === viewer.staffId),
  }));
}

type StoredRow = Omit<FollowUpRow, 'snapshot'> & { snapshot: string; made_by: number; seen_courses: string };

/** What the reader may see; of one kept before courses were told apart, all or nothing. */
function readSnapshot(stored: StoredSnapshot | Snapshot, seen: readonly number[], whole: boolean): Snapshot {
  if ('courses' in stored) return snapshotFor(stored, seen);
  return whole ? stored : snapshotFor({ courses: [] }, []);
}

export interface NewFollowUp {
  learner_id: number;
  owner_id: number;
  made_by: number;
  created_at: number;
  due_day: number;
  reason: string;
  snapshot: StoredSnapshot;
  draft_id?: number;
}

/** Rows in one statement: far fewer than a statement may have variables for. */
const AT_ONCE = 100;

/** Stores follow-ups, many at a time, and gives their ids in the same order. */
export async function addFollowUps(trx: Db, followUps: readonly NewFollowUp[]): Promise<number[]> {
  const rows = followUps.map(({ snapshot, ...row }) => ({ ...row, snapshot: JSON.stringify(snapshot) }));
  const ids: number[] = [];
  for (let from = 0; from < rows.length; from += AT_ONCE) {
    const added = await trx('follow_up')
      .insert(rows.slice(from, from + AT_ONCE))
      .returning('id');
    ids.push(...added.map((row) => row.id));
  }
  return ids;
}

/** An open or closed follow-up on a learner in scope. */
export async function findFollowUp(
  db: Db,
  viewer: Viewer,
  id: number,
): Promise<{ id: number; learner_id: number; owner_id: number; made_by: number; closed_at: number | null } | null> {
  const row = await db('follow_up as f')
    .join('learner', 'learner.id', 'f.learner_id')
    .where('f.id', id)
    .where(learnerInScope(db, viewer))
    .where(wordsInScope(viewer, 'f.owner_id', 'f.made_by'))
    .first('f.id', 'f.learner_id', 'f.owner_id', 'f.made_by', 'f.closed_at');
  return row ?? null;
}

export async function updateFollowUp(
  trx: Db,
  id: number,
  changes: Partial<{
    owner_id: number;
    due_day: number;
    closed_at: number | null;
    outcome: Outcome | null;
    closed_by: number | null;
  }>,
): Promise<void> {
  await trx('follow_up').where({ id }).update(changes);
}

export async function removeFollowUp(trx: Db, id: number): Promise<void> {
  await trx('follow_up').where({ id }).delete();
}

/** How many of one's own are due or overdue: the figure on the rail. */
export async function countDue(db: Db, viewer: Viewer, today: number): Promise<number> {
  return countOf(
    // Of somebody who is out of sight now, the list shows none either.
    db('follow_up as f')
      .join('learner', 'learner.id', 'f.learner_id')
      .where(learnerInScope(db, viewer))
      .where('f.owner_id', viewer.staffId)
      .whereNull('f.closed_at')
      .where('f.due_day', '<=', today),
  );
}

/** How many follow-ups of learners in scope the viewer has promised between two instants, both included. */
export async function promisedBy(db: Db, viewer: Viewer, from: number, until: number): Promise<number> {
  return countOf(
    db('follow_up as f')
      .join('learner', 'learner.id', 'f.learner_id')
      .where(learnerInScope(db, viewer))
      .where('f.made_by', viewer.staffId)
      .whereBetween('f.created_at', [from, until]),
  );
}

/**
 * Colleagues to whom something about some learners can be handed over: staff who see every one of them too. A partner's
 * contact gives and gets none.
 */
export async function colleaguesOf(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
): Promise<{ id: number; name: string; role: string }[]> {
  if (!isStaffMember(viewer) || learnerIds.length === 0) return [];
  const enrolled = (column: 'course_id' | 'group_id') =>
    db('enrolment').whereRaw('enrolment.learner_id = learner.id').whereNotNull(column).select(column);
  const unseen = db('learner')
    .whereIn('learner.id', idList(db, learnerIds))
    .whereNotExists(
      db('staff_scope as s')
        .whereRaw('s.staff_id = staff.id')
        .where((any) =>
          any
            .where('s.kind', 'all')
            .orWhereRaw('s.learner_id = learner.id')
            .orWhereRaw('s.organisation_id = learner.organisation_id')
            .orWhereIn('s.course_id', enrolled('course_id'))
            .orWhereIn('s.group_id', enrolled('group_id')),
        ),
    );
  return db('staff')
    .whereNull('staff.ended_at')
    .whereNot('staff.role', 'coordinator')
    .whereNot('staff.id', viewer.staffId)
    .whereNotExists(unseen)
    .orderBy(['family_name', 'given_name', 'id'])
    .select('staff.id', db.raw(`${staffName(viewer)} AS name`), 'staff.role');
}
