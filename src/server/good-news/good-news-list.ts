/** The list of good news: what went well of late, each with its evidence. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { courseSettingOn } from '@/core/drift/setting';
import {
  GOOD_NEWS,
  GOOD_NEWS_WORDS,
  attendedAgain,
  bestsOf,
  praiseSentence,
  fallsOf,
  returnsOf,
  told,
  type GoodNewsKind,
} from '@/core/good-news/good-news';
import { groupBy } from '@/core/group-by';
import { fullName } from '@/core/people/name';
import { sayCount, sayDay } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { coursesById } from '@/data/courses/courses';
import {
  countedSessions,
  eventDays,
  fallenReadings,
  finished,
  firstPosts,
  gradedScores,
  unitTitles,
  type NewsEnrolment,
} from '@/data/good-news/facts';
import { findLearner, learnersById } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { SegmentQuery } from '../request/segment-query';
import { openDriftView } from '../request/view';
import type { Runtime } from '../runtime';

/** Days that are looked back on where nothing is said of it. */
const DAYS = 28;

class GoodNewsQuery extends SegmentQuery {
  @Filter({ help: 'a learner, by their id', says: (id) => `Learner ${id}` })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  learner?: string;

  @Filter({
    help: GOOD_NEWS.join(', '),
    says: (what) => GOOD_NEWS_WORDS[what as GoodNewsKind],
    control: {
      as: 'choice',
      label: 'What',
      choices: GOOD_NEWS.map((value) => ({ value, label: GOOD_NEWS_WORDS[value] })),
    },
  })
  @IsOptional()
  @IsIn(GOOD_NEWS, { message: `is not one of ${GOOD_NEWS.join(', ')}` })
  what?: GoodNewsKind;

  @Filter({
    help: `from a date on; ${DAYS} days back where it is left out`,
    says: (from) => `From ${from.slice(0, 10)}`,
  })
  @IsOptional()
  @AsDay()
  from?: number;

  @Filter({ help: 'up to a date, included', says: (to) => `To ${to.slice(0, 10)}` })
  @IsOptional()
  @AsDay()
  to?: number;
}

interface News extends NewsEnrolment {
  what: GoodNewsKind;
  on: number;
  evidence: Record<string, string | number>;
  says: string;
}

export interface GoodNewsRow extends News {
  /** Of this row alone. */
  key: string;
  learner_id: string;
  name: string;
  course: string;
  courseTitle: string;
}

const whole = (value: number) => Math.round(value * 10) / 10;

/** All that there is to say of the enrolments in view, whatever of it is told. */
async function everyNews(runtime: Runtime, view: DriftView, learnerIds?: readonly number[]): Promise<News[]> {
  const { db, zone } = runtime;
  const today = dayOf(view.now, zone);
  const [done, days, fallen, scores, sessions, posts] = await Promise.all([
    finished(db, view, learnerIds),
    eventDays(db, view, learnerIds),
    fallenReadings(db, view, learnerIds),
    gradedScores(db, view, learnerIds),
    countedSessions(db, view, learnerIds),
    firstPosts(db, view, zone, learnerIds),
  ]);
  const titles = await unitTitles(db, [...new Set(done.map(({ courseId }) => courseId))]);
  const of = ({ enrolmentId, learnerId: id, courseId }: NewsEnrolment): NewsEnrolment => ({
    enrolmentId,
    learnerId: id,
    courseId,
  });
  const news: News[] = [];
  for (const one of done) {
    if (one.completedAt !== null)
      news.push({
        ...of(one),
        what: 'course_finished',
        on: dayOf(one.completedAt, zone),
        evidence: {},
        says: 'Did all that the course requires.',
      });
    for (const [unitId, at] of one.units) {
      const unit = titles.get(unitId);
      if (unit !== undefined)
        news.push({
          ...of(one),
          what: 'unit_finished',
          on: dayOf(at, zone),
          evidence: { unit },
          says: `Did all that “${unit}” requires.`,
        });
    }
  }
  for (const one of days)
    for (const { on, returned, gap } of returnsOf(one.days))
      news.push({
        ...of(one),
        what: 'came_back',
        on,
        evidence: { returned: dateOfDay(returned), gap_days: gap },
        says: `Came back on ${sayDay(returned, today)} after ${sayCount(gap, 'day')} without anything, and stayed.`,
      });
  for (const [, own] of groupBy(fallen, ({ enrolmentId }) => enrolmentId)) {
    const readings = own.map((one) => ({
      ...one,
      edge: courseSettingOn(view.settings, one.courseId, one.day).edges.slipping,
    }));
    for (const one of fallsOf(readings))
      news.push({
        ...of(one),
        what: 'drift_down',
        on: one.day,
        evidence: { drift: whole(one.score), before: whole(one.before) },
        says: `Drift fell from ${Math.round(one.before)} to ${Math.round(one.score)} in two weeks.`,
      });
  }
  for (const [, own] of groupBy(scores, ({ enrolmentId }) => enrolmentId))
    for (const { score, before } of bestsOf(own))
      news.push({
        ...of(score),
        what: 'best_yet',
        on: dayOf(score.at, zone),
        evidence: { item_id: score.itemId, item: score.item, percent: whole(score.percent), before: whole(before) },
        says: `${whole(score.percent)} % in “${score.item}”; the best before was ${whole(before)} %.`,
      });
  for (const [, own] of groupBy(sessions, ({ enrolmentId }) => enrolmentId))
    for (const one of attendedAgain(own))
      news.push({
        ...of(one),
        what: 'every_session_again',
        on: one.day,
        evidence: { session: one.session },
        says: 'Was in the last 5 sessions, after one that was missed.',
      });
  for (const one of posts)
    news.push({
      ...of(one),
      what: 'first_post',
      on: one.day,
      evidence: one.item === null ? {} : { item: one.item },
      says: `Wrote in ${one.item === null ? 'the course’s discussions' : `“${one.item}”`}, for the first time in the course.`,
    });
  return news.filter(({ on }) => on <= today);
}

/** What there is to tell of one learner in view, in words, newest first. */
export async function newsOfLearner(
  runtime: Runtime,
  view: DriftView,
  learnerId: number,
): Promise<{ on: number; what: string; course: string; says: string }[]> {
  const chosen = told(await everyNews(runtime, view, [learnerId]));
  const courses = await coursesById(runtime.db, [...new Set(chosen.map(({ courseId }) => courseId))]);
  return chosen
    .map(({ on, what, courseId, says }) => ({
      on,
      what: GOOD_NEWS_WORDS[what],
      course: courses.get(courseId)?.title ?? '',
      says,
    }))
    .sort((a, b) => b.on - a.on);
}

/** What each of some learners in view did well last, as a message says it, by their number; nothing that is older than 28 days. */
export async function lastPraise(
  runtime: Runtime,
  view: DriftView,
  learnerIds: readonly number[],
): Promise<Map<number, string>> {
  const since = dayOf(view.now, runtime.zone) - DAYS;
  const byLearner = groupBy(await everyNews(runtime, view, learnerIds), ({ learnerId }) => learnerId);
  const last = [...byLearner.values()].flatMap((own) => {
    const recent = told(own).filter(({ on }) => on > since);
    return recent.length === 0 ? [] : [recent.reduce((latest, one) => (one.on > latest.on ? one : latest))];
  });
  const courses = await coursesById(runtime.db, [...new Set(last.map(({ courseId }) => courseId))]);
  return new Map(
    last.map(({ learnerId, courseId, what, evidence }) => [
      learnerId,
      praiseSentence(what, { course: courses.get(courseId)?.title ?? '', evidence }),
    ]),
  );
}

/** Newest first. @throws InvalidInput, NotFound */
export async function goodNews(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(GoodNewsQuery, values, runtime.zone);
  const { course, group, organisation, caseload, what } = query;
  const { db, zone } = runtime;
  const view = await openDriftView(runtime, viewer, { course, group, organisation, caseload });
  const learner = query.learner === undefined ? undefined : await findLearner(db, viewer, query.learner);
  if (learner === null) throw new NotFound('No such learner');
  const to = query.to ?? dayOf(view.now, zone);
  const from = query.from ?? to - DAYS + 1;
  if (from > to) throw new InvalidInput([{ field: 'to', message: 'lies before from' }]);
  // What is told hangs on what was told before, so all of it is gone through.
  const byLearner = groupBy(
    await everyNews(runtime, view, learner === undefined ? undefined : [learner]),
    ({ learnerId }) => learnerId,
  );
  const chosen = [...byLearner.values()]
    .flatMap((own) => told(own))
    .filter((one) => one.on >= from && one.on <= to && (what === undefined || one.what === what));
  const [people, courses] = await Promise.all([
    learnersById(db, view, [...new Set(chosen.map(({ learnerId }) => learnerId))]),
    coursesById(db, [...new Set(chosen.map(({ courseId }) => courseId))]),
  ]);
  const byId = new Map(people.map((row) => [row.id, row]));
  const all = chosen
    .flatMap((one): GoodNewsRow[] => {
      const person = byId.get(one.learnerId);
      const own = courses.get(one.courseId);
      if (!person || !own) return [];
      const key = `${one.enrolmentId} ${one.what} ${one.on}`;
      return [
        {
          ...one,
          key,
          learner_id: person.learner_id,
          name: fullName(person),
          course: own.code,
          courseTitle: own.title,
        },
      ];
    })
    .sort((a, b) => b.on - a.on || a.name.localeCompare(b.name) || a.key.localeCompare(b.key));
  const { rows, next } = pageInOrder(all, query, ({ key }) => key);
  return { query, view, rows, total: all.length, next, now: view.now, zone };
}

export const GOOD_NEWS_LIST = {
  name: 'good-news',
  path: '/watch/good-news',
  showsDrift: true,
  query: GoodNewsQuery,
  columns: {
    learner: {
      title: 'Learner',
      isKey: true,
      figures: { learner_id: (row) => row.learner_id, name: (row) => row.name },
    },
    course: { title: 'Course', figures: { course: (row) => row.course } },
    what: { title: 'What', figures: { what: (row) => row.what } },
    on: { title: 'Day', figures: { on: (row) => dateOfDay(row.on) } },
    evidence: { title: 'Evidence', figures: { evidence: (row) => row.evidence, says: (row) => row.says } },
  },
  read: goodNews,
} satisfies List<GoodNewsRow>;
