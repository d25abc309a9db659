/**
 * Where enrolments stand: derived, and kept so that lists, the courses' page and drift need not work it out. What changes their
 * facts notes them as stale with a revision; what was derived is stored only while the revision is still the same.
 */
import { noteEvidence, enrolmentProgress, type EnrolmentProgress } from '@/core/completion/enrolment-progress';
import type { Course } from '@/core/completion/course';
import { dayOf } from '@/core/time/zone';
import { prepared, type Db, type RawConnection } from '../db';
import { noteStale } from '../drift/stale';
import type { EvidenceKind } from '@/core/drift/evidence';
import { EVIDENCE_GIVEN, storeEvidence } from '../drift/evidence';
import { readCourse } from './course';
import type { Viewer } from '../scope';
import { openFacts } from './facts';

/** Derives, and is shown nothing. */
const NOBODY: Viewer = {
  staffId: 0,
  role: 'lead',
  name: '',
  all: true,
  organisations: [],
  courses: [],
  groups: [],
  learners: [],
  standInKey: null,
};

const NEW_REVISION = '(random() & 1073741823)';

function staling(select: string): string {
  return `INSERT INTO progress_stale (enrolment_id, revision) SELECT which.*, ${NEW_REVISION} FROM (${select}) AS which WHERE true
    ON CONFLICT DO UPDATE SET revision = excluded.revision`;
}

/** Notes enrolments whose progress has to be derived anew: those that a SELECT of their ids gives. */
export function staleProgress(raw: RawConnection, select: string, params: Record<string, unknown> = {}): void {
  prepared(raw, staling(select)).run(params);
}

/** The same inside of a transaction of Knex. */
export async function staleProgressIn(trx: Db, select: string, params: Record<string, number | string>): Promise<void> {
  await trx.raw(staling(select).replaceAll('@', ':'), params);
}

/** Every enrolment there is. */
export const ALL_PROGRESS = 'SELECT id FROM enrolment';
/** Every enrolment of a course. */
export const PROGRESS_OF_COURSE = 'SELECT id FROM enrolment WHERE course_id = @courseId';
/** Every enrolment of some learners, given as JSON. */
export const PROGRESS_OF_LEARNERS =
  'SELECT id FROM enrolment WHERE learner_id IN (SELECT value FROM json_each(@learners))';

const COLUMNS = [
  'enrolment_id',
  'done',
  'required',
  'begun',
  'completed_at',
  'done_days',
  'plan',
  'tracks',
  'open_dues',
  'waits',
  'on_graded',
  'of_whole',
  'work',
  'units_done',
] as const;

/** A progress as its row holds it, without the enrolment. */
type ProgressValues = (number | string | null)[];

function progressRow(progress: EnrolmentProgress): ProgressValues {
  return [
    progress.done,
    progress.required,
    progress.isBegun ? 1 : 0,
    progress.completedAt,
    JSON.stringify(progress.doneDays),
    JSON.stringify(progress.plan),
    JSON.stringify(progress.tracks.map(({ needs, plan, done }) => [needs, plan, done])),
    JSON.stringify(progress.openDues),
    JSON.stringify(progress.waits),
    progress.means.on_graded_work,
    progress.means.of_whole_course,
    JSON.stringify(progress.work),
    JSON.stringify(progress.unitsDone),
  ];
}

interface ToDerive {
  id: number;
  learner_id: number;
  course_id: number;
  enrolled_day: number;
}

/** A day on which something of a kind was told in a course. */
type FoundEvidence = [courseId: number, kind: EvidenceKind, day: number];

/** Derives the progress of enrolments; courses and statements are opened once. */
function openProgress(raw: RawConnection, zone: string, now: number, evidence?: Evidence) {
  const courses = new Map<number, { course: Course; factsOf: ReturnType<typeof openFacts> }>();
  return ({ learner_id, course_id, enrolled_day }: Omit<ToDerive, 'id'>): EnrolmentProgress => {
    let own = courses.get(course_id);
    if (!own) {
      const course = readCourse(raw, course_id);
      courses.set(course_id, (own = { course, factsOf: openFacts(raw, course, { viewer: NOBODY, now }) }));
    }
    const facts = own.factsOf(learner_id);
    if (evidence) noteEvidence(own.course, facts, (kind, at) => evidence.note(course_id, kind, at));
    return enrolmentProgress(own.course, facts, enrolled_day, zone);
  };
}

/** Gathers evidence: of each kind a day of a course once. */
class Evidence {
  readonly found: FoundEvidence[] = [];
  private readonly seen = new Map<number, Partial<Record<EvidenceKind, Set<number>>>>();

  constructor(private readonly zone: string) {}

  note(courseId: number, kind: EvidenceKind, at: number): void {
    let course = this.seen.get(courseId);
    if (!course) this.seen.set(courseId, (course = {}));
    const days = (course[kind] ??= new Set());
    const day = dayOf(at, this.zone);
    if (days.has(day)) return;
    days.add(day);
    this.found.push([courseId, kind, day]);
  }
}

/** Enrolments whose progress is stale, those of a course together. */
export function staleProgressIds(raw: RawConnection): number[] {
  return prepared(
    raw,
    'SELECT s.enrolment_id FROM progress_stale s JOIN enrolment e ON e.id = s.enrolment_id ORDER BY e.course_id, e.id',
  )
    .pluck()
    .all() as number[];
}

/** Progress that were derived, to be stored. */
export interface DerivedProgress {
  rows: [enrolmentId: number, revision: number, values: ProgressValues][];
  evidence: FoundEvidence[];
}

/** Derives those of some enrolments that are stale, from one snapshot. Nothing is stored. */
export function deriveProgress(
  raw: RawConnection,
  ids: readonly number[],
  { zone, now }: { zone: string; now: number },
): DerivedProgress {
  return raw.transaction(() => {
    const some = prepared(
      raw,
      `SELECT e.id, e.learner_id, e.course_id, e.enrolled_day, s.revision FROM json_each(?) AS which
       JOIN progress_stale s ON s.enrolment_id = which.value JOIN enrolment e ON e.id = s.enrolment_id`,
    ).all(JSON.stringify(ids)) as (ToDerive & { revision: number })[];
    const evidence = new Evidence(zone);
    const derive = openProgress(raw, zone, now, evidence);
    const rows = some.map((one): DerivedProgress['rows'][number] => [one.id, one.revision, progressRow(derive(one))]);
    return { rows, evidence: evidence.found };
  })();
}

/** Stores derived rows, in the caller's write transaction. What has become stale anew meanwhile stays so. */
export function storeProgress(raw: RawConnection, { rows, evidence }: DerivedProgress): void {
  const current = prepared(raw, 'SELECT revision FROM progress_stale WHERE enrolment_id = ?').pluck();
  const before = prepared(raw, 'SELECT done_days FROM enrolment_progress WHERE enrolment_id = ?').pluck();
  const store = prepared(
    raw,
    `INSERT OR REPLACE INTO enrolment_progress (${COLUMNS.join(', ')}) VALUES (${COLUMNS.map(() => '?').join(', ')})`,
  );
  const settle = prepared(raw, 'DELETE FROM progress_stale WHERE enrolment_id = ?');
  for (const [enrolmentId, revision, values] of rows) {
    if (current.get(enrolmentId) !== revision) continue;
    staleByDone(raw, enrolmentId, before.get(enrolmentId) as string | undefined, values[DONE_DAYS] as string);
    store.run(enrolmentId, ...values);
    settle.run(enrolmentId);
  }
  if (evidence.length > 0) storeEvidence(raw, EVIDENCE_GIVEN, { found: JSON.stringify(evidence) });
}

/** Where `done_days` stands among the values of a row. */
const DONE_DAYS = COLUMNS.indexOf('done_days') - 1;

/** Readings hang on when things were done: what is dated otherwise now makes them stale from the earliest day that changes. */
function staleByDone(raw: RawConnection, enrolmentId: number, before: string | undefined, now: string): void {
  if (before === undefined || before === now) return;
  const [done, was] = [now, before].map((text) => JSON.parse(text) as number[]);
  const at = done.findIndex((day, index) => was[index] !== day);
  const fromDay = Math.min(done[at] ?? Infinity, was[at < 0 ? done.length : at] ?? Infinity);
  noteStale(raw, 'SELECT @enrolmentId, @fromDay', { enrolmentId, fromDay });
}

/** Enrolments whose kept progress is not what is derived now; of those that do not wait to be. For a check of all. */
export function compareProgress(
  raw: RawConnection,
  { zone, now }: { zone: string; now: number },
  after: number,
  limit: number,
): { next: number | null; differ: { enrolmentId: number; field: string }[] } {
  const some = raw
    .prepare(
      `SELECT e.id, e.learner_id, e.course_id, e.enrolled_day FROM enrolment e
       WHERE e.id > ? AND e.id NOT IN (SELECT enrolment_id FROM progress_stale)
         AND e.learner_id NOT IN (SELECT learner_id FROM touched) ORDER BY e.id LIMIT ?`,
    )
    .all(after, limit) as ToDerive[];
  const derive = openProgress(raw, zone, now);
  const stored = raw
    .prepare(`SELECT ${COLUMNS.slice(1).join(', ')} FROM enrolment_progress WHERE enrolment_id = ?`)
    .raw();
  const differ = some.flatMap((one) => {
    const [fresh, kept] = [progressRow(derive(one)), stored.get(one.id) as unknown[] | undefined];
    const field = fresh.findIndex((value, index) => kept?.[index] !== value);
    return field < 0 ? [] : [{ enrolmentId: one.id, field: COLUMNS[field + 1] }];
  });
  return { next: some.at(-1)?.id ?? null, differ };
}
