/**
 * Where enrolments stand: derived, and kept so that lists, the courses' page and drift need not work it out. Derived onto the stage
 * beside the days that touched it, and stored with them.
 */
import { noteEvidence, standingOf, type Course, type Standing } from '@/core/completion/standing';
import { dayOf } from '@/core/time/zone';
import { prepared, type Db, type RawConnection } from '../db';
import { markStale } from '../drift/stale';
import type { EvidenceKind } from '@/core/drift/evidence';
import { STAGED_EVIDENCE } from '../drift/evidence';
import { readCourse } from './course';
import type { Viewer } from '../scope';
import { openFacts, type DaysOfItems } from './facts';

/** Standings as they will be once the stage is stored. */
export const STANDINGS_TO_COME = 'temp.standing_to_come';
export type Standings = 'standing' | typeof STANDINGS_TO_COME;

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
  cover: null,
};

const MARK = '(random() & 1073741823)';

function staling(select: string): string {
  return `INSERT INTO standing_stale (enrolment_id, mark) SELECT which.*, ${MARK} FROM (${select}) AS which WHERE true
    ON CONFLICT DO UPDATE SET mark = excluded.mark`;
}

/** Notes enrolments whose standing has to be derived anew: those that a SELECT of their ids gives. */
export function staleStandings(raw: RawConnection, select: string, params: Record<string, unknown> = {}): void {
  prepared(raw, staling(select)).run(params);
}

/** The same inside of a transaction of Knex. */
export async function staleStandingsIn(
  trx: Db,
  select: string,
  params: Record<string, number | string>,
): Promise<void> {
  await trx.raw(staling(select).replaceAll('@', ':'), params);
}

/** Every enrolment there is. */
export const ALL_STANDINGS = 'SELECT id FROM enrolment';
/** Every enrolment of a course. */
export const STANDINGS_OF_COURSE = 'SELECT id FROM enrolment WHERE course_id = @courseId';
/** Every enrolment of some learners, given as JSON. */
export const STANDINGS_OF_LEARNERS =
  'SELECT id FROM enrolment WHERE learner_id IN (SELECT value FROM json_each(@learners))';

export function openStandingStage(raw: RawConnection): void {
  raw.exec(`DROP VIEW IF EXISTS ${STANDINGS_TO_COME}; DROP VIEW IF EXISTS temp.item_day_to_come;
    DROP TABLE IF EXISTS temp.stage_standing;
    CREATE TABLE temp.stage_standing AS SELECT *, 0 AS mark, 0 AS learner_id FROM main.standing WHERE 0;
    CREATE UNIQUE INDEX temp.stage_standing_own ON stage_standing (enrolment_id);
    CREATE INDEX IF NOT EXISTS temp.stage_item_day_own ON stage_item_day (learner_id, item_id, day);
    CREATE VIEW temp.item_day_to_come AS
    SELECT * FROM main.item_day AS d WHERE NOT EXISTS (SELECT 1 FROM temp.stage_learner AS s
      WHERE s.learner_id = d.learner_id AND d.day >= s.first_day AND d.day < s.end_day)
    UNION ALL SELECT * FROM temp.stage_item_day;
    CREATE VIEW ${STANDINGS_TO_COME} AS
    SELECT ${COLUMNS.join(', ')} FROM main.standing AS d WHERE NOT EXISTS (SELECT 1 FROM temp.stage_standing AS s
      WHERE s.enrolment_id = d.enrolment_id)
    UNION ALL SELECT ${COLUMNS.join(', ')} FROM temp.stage_standing`);
}

export function closeStandingStage(raw: RawConnection): void {
  raw.exec(`DROP VIEW IF EXISTS ${STANDINGS_TO_COME}; DROP VIEW IF EXISTS temp.item_day_to_come;
    DROP TABLE IF EXISTS temp.stage_standing`);
}

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
] as const;

/** A standing as its row holds it, without the enrolment. */
function standingRow(standing: Standing): (number | string | null)[] {
  return [
    standing.done,
    standing.required,
    standing.isBegun ? 1 : 0,
    standing.completedAt,
    JSON.stringify(standing.doneDays),
    JSON.stringify(standing.plan),
    JSON.stringify(standing.tracks.map(({ needs, plan, done }) => [needs, plan, done])),
    JSON.stringify(standing.openDues),
    JSON.stringify(standing.waits),
    standing.means.on_graded_work,
    standing.means.of_whole_course,
    JSON.stringify(standing.work),
  ];
}

interface ToDerive {
  id: number;
  learner_id: number;
  course_id: number;
  enrolled_day: number;
  mark: number | null;
}

/** Derives the standing of enrolments; courses and statements are opened once. */
function openStandings(
  raw: RawConnection,
  zone: string,
  now: number,
  days: DaysOfItems,
  evidence?: ReturnType<typeof openEvidenceStage>,
) {
  const courses = new Map<number, { course: Course; factsOf: ReturnType<typeof openFacts> }>();
  return ({ learner_id, course_id, enrolled_day }: Omit<ToDerive, 'id' | 'mark'>): Standing => {
    let own = courses.get(course_id);
    if (!own) {
      const course = readCourse(raw, course_id);
      courses.set(course_id, (own = { course, factsOf: openFacts(raw, course, { viewer: NOBODY, days, now }) }));
    }
    const facts = own.factsOf(learner_id);
    if (evidence) noteEvidence(own.course, facts, (kind, at) => evidence(course_id, kind, at));
    return standingOf(own.course, facts, enrolled_day, zone);
  };
}

/** Opens a writer of evidence onto the stage; of each kind a day is written once. */
function openEvidenceStage(raw: RawConnection, zone: string) {
  const insert = prepared(raw, `INSERT OR IGNORE INTO ${STAGED_EVIDENCE} VALUES (?, ?, ?)`);
  const seen = new Map<number, Partial<Record<EvidenceKind, Set<number>>>>();
  return (courseId: number, kind: EvidenceKind, at: number): void => {
    let course = seen.get(courseId);
    if (!course) seen.set(courseId, (course = {}));
    const days = (course[kind] ??= new Set());
    const day = dayOf(at, zone);
    if (days.has(day)) return;
    days.add(day);
    insert.run(courseId, kind, day);
  };
}

/**
 * Derives some standings onto the stage: those that are stale, and those of the learners that are staged.
 *
 * @param after the last enrolment done before
 * @returns the last one done; null when none are left
 */
export function stageStandings(
  raw: RawConnection,
  { zone, now }: { zone: string; now: number },
  after: number,
  limit: number,
): number | null {
  return raw.transaction(() => {
    const some = raw
      .prepare(
        `SELECT e.id, e.learner_id, e.course_id, e.enrolled_day, s.mark FROM (
           SELECT enrolment_id AS id FROM standing_stale WHERE enrolment_id > @after
           UNION SELECT e.id FROM temp.stage_learner l JOIN enrolment e ON e.learner_id = l.learner_id WHERE e.id > @after
           ORDER BY id LIMIT @limit) AS which
         JOIN enrolment e ON e.id = which.id LEFT JOIN standing_stale s ON s.enrolment_id = e.id ORDER BY e.id`,
      )
      .all({ after, limit }) as ToDerive[];
    // Where nobody's days are on the stage, they are as stored.
    const isStaged = raw.prepare('SELECT EXISTS (SELECT 1 FROM temp.stage_learner)').pluck().get() === 1;
    const derive = openStandings(
      raw,
      zone,
      now,
      isStaged ? 'temp.item_day_to_come' : 'item_day',
      openEvidenceStage(raw, zone),
    );
    const insert = raw.prepare(
      `INSERT INTO temp.stage_standing (${COLUMNS.join(', ')}, mark, learner_id)
       VALUES (${'?, '.repeat(COLUMNS.length)}?, ?)`,
    );
    for (const one of some) insert.run(one.id, ...standingRow(derive(one)), one.mark, one.learner_id);
    return some.at(-1)?.id ?? null;
  })();
}

/**
 * Stores the staged standings, in the caller's write transaction. What was touched again meanwhile stays stale.
 *
 * @param touchedAgain learners whose days were derived once more after their standing
 */
export function storeStandings(raw: RawConnection, touchedAgain: readonly number[]): void {
  const again = JSON.stringify(touchedAgain);
  staleStandings(
    raw,
    `SELECT enrolment_id FROM temp.stage_standing WHERE learner_id IN (SELECT value FROM json_each(@again))`,
    { again },
  );
  raw
    .prepare(
      `DELETE FROM temp.stage_standing WHERE learner_id IN (SELECT value FROM json_each(@again))
         OR EXISTS (SELECT 1 FROM standing_stale s WHERE s.enrolment_id = stage_standing.enrolment_id AND s.mark IS NOT stage_standing.mark)`,
    )
    .run({ again });
  staleByDone(raw);
  raw.exec(`INSERT OR REPLACE INTO main.standing (${COLUMNS.join(', ')}) SELECT ${COLUMNS.join(', ')} FROM temp.stage_standing;
    DELETE FROM standing_stale WHERE enrolment_id IN (SELECT enrolment_id FROM temp.stage_standing)`);
}

/** Readings hang on when things were done: what is dated otherwise now makes them stale from the earliest day that changes. */
function staleByDone(raw: RawConnection): void {
  const changed = raw
    .prepare(
      `SELECT s.enrolment_id, s.done_days, o.done_days FROM temp.stage_standing s
       JOIN main.standing o ON o.enrolment_id = s.enrolment_id WHERE o.done_days <> s.done_days`,
    )
    .raw()
    .all() as [enrolment: number, done: string, before: string][];
  for (const [enrolmentId, ...texts] of changed) {
    const [done, before] = texts.map((text) => JSON.parse(text) as number[]);
    const at = done.findIndex((day, index) => before[index] !== day);
    const fromDay = Math.min(done[at] ?? Infinity, before[at < 0 ? done.length : at] ?? Infinity);
    markStale(raw, 'SELECT @enrolmentId, @fromDay', { enrolmentId, fromDay });
  }
}

/** How many standings are on the stage. */
export function stagedStandings(raw: RawConnection): number {
  return raw.prepare('SELECT count(*) FROM temp.stage_standing').pluck().get() as number;
}

/** Enrolments whose kept standing is not what is derived now; of those that do not wait to be. For a check of all. */
export function compareStandings(
  raw: RawConnection,
  { zone, now }: { zone: string; now: number },
  after: number,
  limit: number,
): { next: number | null; differ: { enrolmentId: number; field: string }[] } {
  const some = raw
    .prepare(
      `SELECT e.id, e.learner_id, e.course_id, e.enrolled_day FROM enrolment e
       WHERE e.id > ? AND e.id NOT IN (SELECT enrolment_id FROM standing_stale)
         AND e.learner_id NOT IN (SELECT learner_id FROM touched) ORDER BY e.id LIMIT ?`,
    )
    .all(after, limit) as ToDerive[];
  const derive = openStandings(raw, zone, now, 'item_day');
  const stored = raw.prepare(`SELECT ${COLUMNS.slice(1).join(', ')} FROM standing WHERE enrolment_id = ?`).raw();
  const differ = some.flatMap((one) => {
    const [fresh, kept] = [standingRow(derive(one)), stored.get(one.id) as unknown[] | undefined];
    const field = fresh.findIndex((value, index) => kept?.[index] !== value);
    return field < 0 ? [] : [{ enrolmentId: one.id, field: COLUMNS[field + 1] }];
  });
  return { next: some.at(-1)?.id ?? null, differ };
}
