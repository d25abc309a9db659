/** What was written in discussions, by whoever it is asked of: as a list, and as who wrote how much. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { coursesInLog, itemsOfLog } from '@/data/access/log/names';
import { findLearner } from '@/data/people/learners';
import {
  answeredPairs,
  discussionsOf,
  posters,
  postsPage,
  wordsToMatch,
  type AnsweredPair,
  type PosterRow,
  type PostRow,
} from '@/data/posts/posts';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { NotFound, readInput, type Values } from '../request/input';
import { Filter, sortsOf, valueOf, type List } from '../request/list';
import { limitOf, pageInOrder, placeOf, SortedBy, writeCursor } from '../request/list-query';
import { PeriodQuery, periodOf } from '../request/period';
import { isoOrNull } from '../request/values';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

const long = { message: 'is too long' };

class PostsQuery extends PeriodQuery {
  @Filter({
    help: 'words that it holds, in any case and with or without accents; "in quotes" side by side, begin* for a beginning',
  })
  @IsOptional()
  @MaxLength(200, long)
  q?: string;

  @Filter({ help: 'a learner, by their id', says: (id, _params, names) => names.learner ?? `Learner ${id}` })
  @IsOptional()
  @MaxLength(200, long)
  learner?: string;

  @Filter({
    help: 'a discussion, by its item’s id',
    says: (id, _params, names) => `In ${names.item ?? id}`,
    control: { as: 'choice', label: 'Discussion', choices: 'items' },
  })
  @IsOptional()
  @MaxLength(200, long)
  item?: string;

  @Filter({
    help: '`yes` for those of staff as well',
    says: () => 'With staff',
    control: { as: 'press', label: 'Those of staff as well', value: 'yes' },
  })
  @IsOptional()
  @IsIn(['yes', 'no'], { message: 'is not one of yes, no' })
  staff?: 'yes' | 'no';
}

/** Newest first. @throws InvalidInput, NotFound */
export async function posts(runtime: Runtime, viewer: Viewer, values: Values, withTotal = true) {
  const { db, zone } = runtime;
  const query = readInput(PostsQuery, values, zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const learnerId = query.learner === undefined ? undefined : await findLearner(db, viewer, query.learner);
  if (learnerId === null) throw new NotFound('No such learner');
  const items = query.item === undefined ? undefined : await itemsOfLog(db, await coursesInLog(db, view), query.item);
  if (items?.length === 0) throw new NotFound('No such item');
  const { from, to } = await periodOf(runtime, view, query, items?.[0]);
  const match = query.q === undefined ? undefined : wordsToMatch(query.q);
  const { rows, total, goesOn } = await postsPage(
    db,
    view,
    { learnerId, itemIds: items?.map(({ id }) => id), match, staff: query.staff === 'yes', from, to },
    { limit: limitOf(query), after: placeOf(query) },
    withTotal,
  );
  const last = rows.at(-1);
  const next = goesOn && last ? writeCursor([last.at, last.id]) : null;
  return { query, view, rows, total, next, now: view.now, zone };
}

export const POSTS = {
  name: 'posts',
  path: '/courses/posts',
  query: PostsQuery,
  columns: {
    time: { title: 'Time', figures: { time: (row) => isoOrNull(row.at) } },
    of: {
      title: 'Who',
      isKey: true,
      figures: { learner_id: (row) => row.learner_id, name: (row) => row.name },
    },
    item: {
      title: 'Discussion',
      figures: { course: (row) => row.course, item_id: (row) => row.item_id, item: (row) => row.item },
    },
    text: { title: 'Text', figures: { text: (row) => row.text, words: (row) => row.words } },
    id: { title: 'Post', figures: { post_id: (row) => row.post_id, in_reply_to: (row) => row.in_reply_to } },
    answered: {
      title: 'Answers',
      figures: { answered_learner_id: (row) => row.answered_learner, answered_name: (row) => row.answered_name },
    },
  },
  read: posts,
} satisfies List<PostRow>;

/** The discussions of the courses in view. */
export async function discussionsIn({ db }: Pick<Runtime, 'db'>, view: View) {
  return discussionsOf(db, await coursesInLog(db, view));
}

/** A column of a figure, sorted by it and given under its name. */
const figure = (title: string, name: 'forums' | 'posts' | 'replies' | 'words') => ({
  title,
  sort: name,
  value: (row: PosterRow) => row[name],
  figures: { [name]: (row: PosterRow) => row[name] },
});

const time = (title: string, name: 'first' | 'last') => ({
  title,
  sort: name,
  value: (row: PosterRow) => row[name],
  figures: { [name]: (row: PosterRow) => isoOrNull(row[name]) },
});

const COLUMNS = {
  learner: {
    title: 'Learner',
    sort: 'name',
    isKey: true,
    figures: { learner_id: (row: PosterRow) => row.learner_id, name: (row: PosterRow) => row.name },
  },
  forums: figure('Discussions', 'forums'),
  posts: figure('Posts', 'posts'),
  replies: figure('Replies', 'replies'),
  words: figure('Words', 'words'),
  first: time('First', 'first'),
  last: time('Last', 'last'),
} as const;

const SORTS = sortsOf(COLUMNS);

class PostersQuery extends PeriodQuery {
  @Filter({
    help: '`yes` for who wrote, `no` for who never did',
    says: (wrote) => (wrote === 'no' ? 'Never wrote' : 'Wrote'),
    control: {
      as: 'choice',
      label: 'Wrote',
      choices: [
        { value: 'yes', label: 'wrote' },
        { value: 'no', label: 'never wrote' },
      ],
    },
  })
  @IsOptional()
  @IsIn(['yes', 'no'], { message: 'is not one of yes, no' })
  wrote?: 'yes' | 'no';

  @Filter({ help: '`all`: those whose enrolment has ended, too', says: () => 'Ended enrolments too' })
  @IsOptional()
  @IsIn(['active', 'all'], { message: 'is not one of active, all' })
  status?: 'active' | 'all';

  @IsOptional() @SortedBy(SORTS) sort?: string;
}

/** Who wrote how much, also who never did: most posts first. @throws InvalidInput, NotFound */
export async function postsByPeople(runtime: Runtime, viewer: Viewer, values: Values) {
  const { db, zone } = runtime;
  const query = readInput(PostersQuery, values, zone);
  const { course, group, organisation, caseload, status = 'active', sort = '-posts', wrote } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const { from, to } = await periodOf(runtime, view, query);
  const all = await posters(db, view, { from, to, status });
  const kept = wrote === undefined ? all : all.filter((row) => row.posts > 0 === (wrote === 'yes'));
  kept.sort((a, b) => (a.sort < b.sort ? -1 : a.sort > b.sort ? 1 : a.id - b.id));
  const down = sort.startsWith('-');
  if (sort.replace('-', '') === 'name') {
    if (down) kept.reverse();
  } else {
    const value = valueOf<PosterRow>(COLUMNS, sort);
    kept.sort((a, b) => {
      const [x, y] = [value(a), value(b)];
      if (x === null || y === null) return Number(x === null) - Number(y === null);
      return down ? y - x : x - y;
    });
  }
  const { rows, next } = pageInOrder(kept, query, ({ id }) => id);
  const never = all.filter((row) => row.posts === 0).length;
  return { query, view, period: { from, to }, rows, never, total: kept.length, next, now: view.now, zone };
}

export const POSTERS = {
  name: 'posts-people',
  api: 'posts/people',
  path: '/courses/posts/people',
  query: PostersQuery,
  columns: COLUMNS,
  read: postsByPeople,
} satisfies List<PosterRow>;

/** Who answered whom in a part and period, the most first. */
export async function whoAnswered(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  period: { from?: number; to?: number },
  limit = 30,
): Promise<AnsweredPair[]> {
  return answeredPairs(db, view, period, limit);
}
