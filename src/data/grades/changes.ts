/** The history of grades. */
import type { Knex } from 'knex';
import { countOf, type Db } from '../db';
import { freeText, personColumns, staffName, staffWords } from '../person';
import { seenEnrolments, type View } from '../view';

/** A change of a grade: the first one too, which stands in its attempt. */
export interface GradeChangeRow {
  id: number;
  at: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  learner: number;
  course: string;
  item_id: string;
  item: string;
  number: number;
  old: number | null;
  score: number | null;
  points: number | null;
  by: string | null;
  why: string;
}

export interface ChangesSearch {
  learnerId?: number;
  item?: string;
  from?: number;
  to?: number;
  /** Only those after this place, newest first. */
  after?: { at: number; id: number } | null;
  limit: number;
}

/** First grades stand below every change of the same instant: their numbers are told apart by so much. */
const FIRST = 2 ** 40;
/** Up to so many enrolments are gone through one by one; beyond, time is walked backwards until enough are found. */
const FEW = 500;

/** In which order tables are read: the planner does not know how many of a table are in view. */
const WAYS = {
  people: `enrolment CROSS JOIN ?? AS c ON c.learner_id = enrolment.learner_id
    CROSS JOIN item ON item.id = c.item_id AND item.course_id = enrolment.course_id`,
  item: `item CROSS JOIN ?? AS c ON c.item_id = item.id
    CROSS JOIN enrolment ON enrolment.learner_id = c.learner_id AND enrolment.course_id = item.course_id`,
  time: `?? AS c CROSS JOIN item ON item.id = c.item_id
    CROSS JOIN enrolment ON enrolment.learner_id = c.learner_id AND enrolment.course_id = item.course_id`,
} as const;

const FIRST_CHANGE = `(SELECT min(g.id) FROM grade_change g
  WHERE g.learner_id = c.learner_id AND g.item_id = c.item_id AND g.number = c.number)`;

type Kind = 'grade_change' | 'attempt';
const AT = { grade_change: 'c.at', attempt: 'c.graded_at' } as const;
type Asked = Omit<ChangesSearch, 'limit'>;

async function wayOf(db: Db, view: View, { learnerId, item }: Asked): Promise<keyof typeof WAYS> {
  if (learnerId !== undefined) return 'people';
  const some = await seenEnrolments(db, view, 'all')
    .limit(FEW + 1)
    .select('enrolment.id');
  if (some.length <= FEW) return 'people';
  return item === undefined ? 'time' : 'item';
}

/** Changes, or the first grades that stand in attempts, of those in view. */
function found(db: Db, view: View, kind: Kind, way: keyof typeof WAYS, asked: Asked): Knex.QueryBuilder {
  const { learnerId, item, from = -8.64e15, to = 8.64e15, after } = asked;
  const until = view.asOf === null ? 8.64e15 : view.now;
  return (
    db
      .from(db.raw(WAYS[way], [kind]) as never)
      // Held off the index: there, each row would be tried with every enrolment in view.
      .whereRaw('+enrolment.id IN ?', [seenEnrolments(db, view, 'all').select('enrolment.id')])
      .where(AT[kind], '>=', from)
      .where(AT[kind], '<', to)
      .where(AT[kind], '<=', until)
      .modify((query) => {
        if (learnerId !== undefined) query.where('enrolment.learner_id', learnerId);
        if (item !== undefined) query.where('item.external_id', item);
        if (after) {
          query
            .where(AT[kind], '<=', after.at)
            .whereRaw(`(??, c.id) < (?, ?)`, [AT[kind], after.at, kind === 'attempt' ? after.id + FIRST : after.id]);
        }
        // It was graded: now, or before its first change, which is looked up where nothing else tells.
        if (kind === 'attempt') {
          query.whereRaw(
            `(c.score IS NOT NULL OR (SELECT old_score FROM grade_change WHERE id = ${FIRST_CHANGE}) IS NOT NULL)`,
          );
        }
      })
  );
}

const GIVEN: Record<Kind, { id: string; old: string; score: string; points: string; grader: string; why: string }> = {
  grade_change: {
    id: 'c.id',
    old: 'c.old_score',
    score: 'c.score',
    points: 'c.points',
    grader: 'c.grader',
    why: 'c.why',
  },
  attempt: {
    id: `c.id - ${FIRST}`,
    old: 'NULL',
    score: 'ifnull(f.old_score, c.score)',
    points: 'ifnull(f.old_points, c.points)',
    grader: 'c.grader',
    why: "''",
  },
};

/** Every change of grades in view, newest first: a first grade with nothing before it, and each one after. */
export async function gradeChanges(db: Db, view: View, search: ChangesSearch): Promise<GradeChangeRow[]> {
  const { id, given, family } = personColumns(view.viewer);
  const way = await wayOf(db, view, search);
  const ofKind = (kind: Kind): Promise<GradeChangeRow[]> => {
    const givenColumns = GIVEN[kind];
    const by = `ifnull(${staffName(view.viewer)}, ${freeText(view.viewer, givenColumns.grader)})`;
    return found(db, view, kind, way, search)
      .join('learner', 'learner.id', 'enrolment.learner_id')
      .join('course', 'course.id', 'enrolment.course_id')
      .leftJoin('staff', 'staff.id', 'c.staff_id')
      .modify((query) => {
        // What the first grade was: as the first change left it behind, else as it is.
        if (kind === 'attempt') query.joinRaw(`LEFT JOIN grade_change AS f ON f.id = ${FIRST_CHANGE}`);
      })
      .orderBy([
        { column: AT[kind], order: 'desc' },
        { column: 'c.id', order: 'desc' },
      ])
      .limit(search.limit)
      .select(
        db.raw(`${givenColumns.id} AS id`),
        `${AT[kind]} as at`,
        db.raw(`${id} AS learner_id`),
        db.raw(`${given} AS given_name`),
        db.raw(`${family} AS family_name`),
        'learner.id as learner',
        'course.code as course',
        'item.external_id as item_id',
        'item.title as item',
        'c.number',
        db.raw(`${givenColumns.old} AS old`),
        db.raw(`${givenColumns.score} AS score`),
        db.raw(`${givenColumns.points} AS points`),
        // Whoever gave a grade that was changed since is not known: the attempt names the last.
        db.raw(`${kind === 'attempt' ? `CASE WHEN f.id IS NULL THEN ${by} END` : by} AS "by"`),
        db.raw(`${staffWords(view.viewer, 'c.staff_id', givenColumns.why)} AS why`),
      );
  };
  const [firsts, later] = await Promise.all([ofKind('attempt'), ofKind('grade_change')]);
  return [...firsts, ...later].sort((a, b) => b.at - a.at || b.id - a.id).slice(0, search.limit);
}

/** How many changes of grades are in view. */
export async function countGradeChanges(db: Db, view: View, asked: Asked): Promise<number> {
  const way = await wayOf(db, view, asked);
  const [firsts, later] = await Promise.all(
    (['attempt', 'grade_change'] as const).map((kind) => countOf(found(db, view, kind, way, asked))),
  );
  return firsts + later;
}
