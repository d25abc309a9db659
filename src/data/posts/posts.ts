/** Posts of discussions, cut to the viewer's scope: a page of them, how many there are, and who wrote how much. */
import type { Knex } from 'knex';
import { fewLearners } from '../access/log/way-in';
import { countOf, type Db } from '../db';
import { cutPage, newestFirst, type PageAfter } from '../newest-first';
import { freeText, personColumns, staffColumn, staffName } from '../person';
import { conditionOf, courseRowInScope, isOfSome, learnerOf, type ViewScope, type Viewer } from '../scope';
import { seenEnrolments, type View } from '../view';
import { isStaffMember } from '@/core/staff/rights';

export interface PostFilter {
  learnerId?: number;
  /** Items; empty finds nothing. */
  itemIds?: readonly number[];
  /** Words that a text has to hold, as `wordsToMatch` gives them. */
  match?: string;
  /** Those of staff as well. */
  staff: boolean;
  from?: number;
  /** Not included. */
  to?: number;
}

export interface PostRow {
  id: number;
  at: number;
  /** The database's id of the learner; null for staff. */
  person: number | null;
  learner_id: string;
  name: string;
  course: string;
  item_id: string | null;
  item: string | null;
  text: string;
  words: number;
  post_id: string | null;
  in_reply_to: string | null;
  /** Who wrote what it answers; null where that never came, or is somebody the viewer does not see. */
  answered_name: string | null;
  answered_learner: string | null;
}

/** May the viewer read what learners wrote? A partner's contact counts, and reads none of it. */
function readsPosts(viewer: Viewer): boolean {
  return isStaffMember(viewer) && viewer.standInKey === null;
}

/**
 * What somebody typed as a question to the index of words: every word has to be there, in any case and with or without its
 * accents; words in quotes stand side by side, a word with * at its end is a beginning.
 *
 * @example wordsToMatch('knot "dry wall" moor*') // '"knot" "dry wall" "moor"*'
 */
export function wordsToMatch(q: string): string {
  const phrases = (q.replaceAll('\u0000', ' ').match(/"[^"]*"?|[^\s"]+/g) ?? []).map((phrase) => {
    const words = phrase.replace(/["*]/g, ' ').trim();
    return `"${words}"${words !== '' && !phrase.startsWith('"') && phrase.endsWith('*') ? '*' : ''}`;
  });
  // What holds no word is found nowhere.
  return phrases.join(' ') || '""';
}

/** The conditions on a row of `post`: the viewer's scope, the part looked at, and the filter. */
function postMatches(db: Db, { viewer, segment }: ViewScope, filter: PostFilter) {
  return (query: Knex.QueryBuilder) => {
    // A part of a course's people is of learners alone.
    const isLearnersAlone = !filter.staff || isOfSome(segment);
    if (isLearnersAlone) query.whereNotNull('post.learner_id');
    if (!viewer.all)
      query.where((either) => {
        either.where((own) => own.whereNotNull('post.learner_id').where(courseRowInScope(db, viewer, 'post')));
        if (!isLearnersAlone)
          either.orWhere((staff) => staff.whereNull('post.learner_id').whereIn('post.course_id', viewer.courses));
      });
    if (segment.courseId !== undefined) query.where('post.course_id', segment.courseId);
    if (filter.learnerId !== undefined) query.where('post.learner_id', filter.learnerId);
    if (filter.itemIds) query.whereIn('post.item_id', filter.itemIds);
    if (filter.from !== undefined) query.where('post.at', '>=', filter.from);
    if (filter.to !== undefined) query.where('post.at', '<', filter.to);
    if (segment.groupId !== undefined)
      query.whereExists(
        db('enrolment as g')
          .whereRaw('g.learner_id = post.learner_id AND g.course_id = post.course_id')
          .where('g.group_id', segment.groupId),
      );
    query.where(learnerOf(segment, 'post.learner_id'));
    if (filter.match !== undefined && !readsPosts(viewer)) query.whereRaw('0');
  };
}

/** The rows of `post` that match, by the way that walks the fewest. */
async function matching(db: Db, scope: ViewScope, filter: PostFilter): Promise<() => Knex.QueryBuilder> {
  const matches = postMatches(db, scope, filter);
  if (filter.match !== undefined)
    return () =>
      db
        .from(db.raw('post_words CROSS JOIN post ON post.id = post_words.rowid'))
        .whereRaw('post_words MATCH ?', [filter.match!])
        .where(matches);
  const isNarrow = !scope.viewer.all || isOfSome(scope.segment);
  const few =
    isNarrow && !filter.staff && !filter.itemIds && filter.learnerId === undefined
      ? await fewLearners(db, scope)
      : null;
  if (few)
    return () =>
      db
        .from(
          db.raw('json_each(?) AS few CROSS JOIN post INDEXED BY post_learner ON post.learner_id = few.value', [
            JSON.stringify(few.keys),
          ]),
        )
        .where(matches);
  return () => db('post').where(matches);
}

/** Posts that match, newest first, and how many there are. */
export async function postsPage(
  db: Db,
  scope: ViewScope,
  filter: PostFilter,
  page: PageAfter,
  withTotal = true,
): Promise<{ rows: PostRow[]; total: number; goesOn: boolean }> {
  const { viewer } = scope;
  const found = await matching(db, scope, filter);
  const [learner, other] = [personColumns(viewer), personColumns(viewer, 'other')];
  const either = (own: string, theirs: string) =>
    filter.staff ? `CASE WHEN post.learner_id IS NULL THEN ${theirs} ELSE ${own} END` : own;
  // Whom it answers is said only of somebody whom the viewer sees: the text may name them, the list does not.
  const { sql: isSeen, bindings } = conditionOf(db, courseRowInScope(db, viewer, 'before'));
  // Everything that holds a word is looked up to be put in order: counted with it, it is looked up once.
  const isCountedBeside = withTotal && filter.match !== undefined && !page.after;
  const [rows, counted] = await Promise.all([
    db
      .from(
        found()
          .modify(newestFirst('post.at', 'post.id', page))
          .select('post.id', db.raw(`${isCountedBeside ? 'count(*) OVER ()' : '0'} AS total`))
          .as('place'),
      )
      .joinRaw('CROSS JOIN post ON post.id = place.id')
      .join('course', 'course.id', 'post.course_id')
      .leftJoin('learner', 'learner.id', 'post.learner_id')
      .leftJoin('staff', 'staff.id', 'post.staff_id')
      .leftJoin('item', 'item.id', 'post.item_id')
      .leftJoin('post as before', (on) =>
        on.on('before.course_id', 'post.course_id').andOn('before.external_id', 'post.reply_to'),
      )
      .leftJoin('learner as other', 'other.id', 'before.learner_id')
      .leftJoin('staff as teacher', 'teacher.id', 'before.staff_id')
      .orderBy([
        { column: 'post.at', order: 'desc' },
        { column: 'post.id', order: 'desc' },
      ])
      .select(
        'place.total',
        'post.id',
        'post.at',
        'post.learner_id as person',
        db.raw(`${either(learner.id, staffColumn(viewer, 'external_id'))} AS learner_id`),
        db.raw(`${either(learner.name, staffName(viewer))} AS name`),
        'course.code as course',
        'item.external_id as item_id',
        'item.title as item',
        isStaffMember(viewer) ? db.raw(`${freeText(viewer, 'post.text')} AS text`) : db.raw("'' AS text"),
        'post.words',
        'post.external_id as post_id',
        'post.reply_to as in_reply_to',
        db.raw(
          `CASE WHEN before.staff_id IS NOT NULL THEN ${staffName(viewer, 'teacher')}
             WHEN before.learner_id IS NOT NULL AND ${isSeen} THEN ${other.name} END AS answered_name`,
          bindings as never[],
        ),
        db.raw(
          `CASE WHEN before.learner_id IS NOT NULL AND ${isSeen} THEN ${other.id} END AS answered_learner`,
          bindings as never[],
        ),
      ) as Promise<(PostRow & { total: number })[]>,
    withTotal && !isCountedBeside ? countOf(found()) : 0,
  ]);
  const total = isCountedBeside ? (rows[0]?.total ?? 0) : counted;
  return { ...cutPage(rows, page.limit), total };
}

/** The discussions of some courses, in outline order. */
export async function discussionsOf(
  db: Db,
  courseIds: readonly number[],
): Promise<{ item_id: string; item: string; course: string }[]> {
  return db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('item.kind', 'discussion')
    .whereNull('item.removed_at')
    .whereIn('item.course_id', courseIds)
    .orderBy(['course.code', 'item.position'])
    .select('item.external_id as item_id', 'item.title as item', 'course.code as course');
}

/** How much one learner wrote in the courses in view. */
export interface PosterRow {
  id: number;
  learner_id: string;
  name: string;
  sort: string;
  /** Discussions with something of theirs in them. */
  forums: number;
  /** Replies among them. */
  posts: number;
  replies: number;
  words: number;
  first: number | null;
  last: number | null;
}

/** Every learner in view, also who never wrote. */
export async function posters(
  db: Db,
  view: View,
  { from, to, status }: Pick<PostFilter, 'from' | 'to'> & { status: 'active' | 'all' },
): Promise<PosterRow[]> {
  const learner = personColumns(view.viewer);
  return seenEnrolments(db, view, status)
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .leftJoin('post', (on) => {
      on.on('post.learner_id', 'enrolment.learner_id').andOn('post.course_id', 'enrolment.course_id');
      if (from !== undefined) on.andOn('post.at', '>=', db.raw('?', [from]));
      if (to !== undefined) on.andOn('post.at', '<', db.raw('?', [to]));
    })
    .groupBy('learner.id')
    .select(
      'learner.id',
      db.raw(`${learner.id} AS learner_id`),
      db.raw(`${learner.name} AS name`),
      db.raw(`${learner.sort} AS sort`),
      db.raw('count(DISTINCT post.item_id) AS forums'),
      db.raw('count(post.id) AS posts'),
      db.raw('count(post.reply_to) AS replies'),
      db.raw('ifnull(sum(post.words), 0) AS words'),
      db.raw('min(post.at) AS first'),
      db.raw('max(post.at) AS last'),
    );
}

/** Who answered whom, and how often. */
export interface AnsweredPair {
  from_id: string;
  from_name: string;
  to_id: string;
  to_name: string;
  answers: number;
}

/** Pairs of learners in view of whom one answered the other, those of most answers first. */
export async function answeredPairs(
  db: Db,
  scope: ViewScope,
  filter: Pick<PostFilter, 'from' | 'to'>,
  limit: number,
): Promise<AnsweredPair[]> {
  const { viewer } = scope;
  const [own, other] = [personColumns(viewer), personColumns(viewer, 'other')];
  return db('post')
    .where(postMatches(db, scope, { ...filter, staff: false }))
    .join('post as before', (on) =>
      on.on('before.course_id', 'post.course_id').andOn('before.external_id', 'post.reply_to'),
    )
    .where(courseRowInScope(db, viewer, 'before'))
    .whereRaw('before.learner_id <> post.learner_id')
    .join('learner', 'learner.id', 'post.learner_id')
    .join('learner as other', 'other.id', 'before.learner_id')
    .groupBy('post.learner_id', 'before.learner_id')
    .orderByRaw(`count(*) DESC, ${own.sort}, ${other.sort}`)
    .limit(limit)
    .select(
      db.raw(`${own.id} AS from_id`),
      db.raw(`${own.name} AS from_name`),
      db.raw(`${other.id} AS to_id`),
      db.raw(`${other.name} AS to_name`),
      db.raw('count(*) AS answers'),
    );
}
