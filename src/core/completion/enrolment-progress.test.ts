import { describe, expect, it } from 'vitest';
import { DAY, HOUR } from '../time/zone';
import { withLoggedHandIn, type Attempt } from '../work/attempt';
import { ruleOf } from './rule';
import { progressOfItems, enrolmentProgress, itemStatuses } from './enrolment-progress';
import type { Course, CourseItem, LearnerFacts } from './course';
import { NOTHING_KNOWN, type ItemDay, type ItemFacts } from './state';

/** Instants of a course that begins on day 100. */
const START = 100;
const at = (day: number, hour = 12) => (START + day) * DAY + hour * HOUR;
const ZONE = 'UTC';

let next = 1;
const item = (kind: CourseItem['kind'], more: Partial<CourseItem> = {}): CourseItem => {
  const id = next++;
  return {
    id,
    externalId: `I${id}`,
    title: `Item ${id}`,
    kind,
    unitId: 1,
    unit: 'Week 1',
    required: true,
    opensAt: null,
    dueAt: null,
    category: null,
    must: false,
    stage: null,
    url: null,
    hasResults: true,
    rule: ruleOf(kind, null),
    points: null,
    policy: 'best',
    ...more,
  };
};
const course = (items: CourseItem[], more: Partial<Course> = {}): Course => ({
  id: 1,
  code: 'DRY',
  title: 'Drystone Walling',
  start: START,
  end: START + 27,
  passMark: 50,
  items,
  categories: [],
  options: {},
  ...more,
});
const attempt = (more: Partial<Attempt> = {}): Attempt => ({
  number: 1,
  started_at: null,
  submitted_at: null,
  score: null,
  points: null,
  graded_at: null,
  has_feedback: false,
  dismissed_at: null,
  ...more,
});
const opened = (day: number): ItemDay => ({
  day: START + day,
  opens: 1,
  events: 1,
  talked: 0,
  ms: 0,
  first: at(day),
  last: at(day),
});
const known = (
  items: [CourseItem, Partial<ItemFacts>][],
  more: Partial<Omit<LearnerFacts, 'items'>> = {},
): LearnerFacts => ({
  items: new Map(items.map(([{ id }, facts]) => [id, { ...NOTHING_KNOWN, ...facts }])),
  extensions: new Map(),
  logged: new Map(),
  attendanceRate: null,
  ...more,
});
const extension = (more: { dueAt?: number | null; isExcused?: boolean; at?: number } = {}) => ({
  dueAt: null,
  isExcused: false,
  reason: '',
  at: at(3),
  by: null,
  ...more,
});

describe('where somebody stands in a course', () => {
  it('is nothing in a course without items, and nothing begun where nothing is known', () => {
    expect(enrolmentProgress(course([]), known([]), START, ZONE)).toMatchObject({
      done: 0,
      required: 0,
      isBegun: false,
      completedAt: null,
      plan: [],
      openDues: [],
      work: [],
    });
    const sheet = item('assignment', { dueAt: at(6), points: 20 });
    expect(enrolmentProgress(course([sheet]), known([]), START, ZONE)).toMatchObject({
      done: 0,
      required: 1,
      isBegun: false,
      openDues: [at(6)],
      plan: [START + 6],
      waits: [],
    });
  });

  it('counts required items alone, and is complete from the last of them on', () => {
    const [page, sheet, extra] = [item('page'), item('assignment'), item('page', { required: false })];
    const all = course([page, sheet, extra]);
    const begun = enrolmentProgress(all, known([[extra, { days: [opened(1)] }]]), START, ZONE);
    expect(begun).toMatchObject({ done: 0, required: 2, completedAt: null });
    const done = known([
      [page, { days: [opened(5)] }],
      [sheet, { attempts: [attempt({ submitted_at: at(3) })] }],
    ]);
    expect(enrolmentProgress(all, done, START, ZONE)).toMatchObject({
      done: 2,
      required: 2,
      isBegun: true,
      completedAt: at(5),
      doneDays: [START + 3, START + 5],
    });
  });

  it('leaves exempt items out of what is required, planned and due', () => {
    const [sheet, quiz] = [item('assignment', { dueAt: at(6) }), item('quiz', { dueAt: at(13) })];
    const facts = known([
      [sheet, { override: { state: 'exempt', at: at(1), by: null, reason: 'was ill' } }],
      [quiz, { excusedAt: at(2) }],
    ]);
    expect(enrolmentProgress(course([sheet, quiz]), facts, START, ZONE)).toMatchObject({
      required: 0,
      plan: [],
      openDues: [],
      completedAt: null,
    });
    expect(itemStatuses(course([sheet, quiz]), facts, at(20)).map(({ dueState: owed }) => owed)).toEqual([
      'exempt',
      'exempt',
    ]);
  });

  it('keeps the date of an extension instead of the item’s, in what is due and in the plan', () => {
    const sheet = item('assignment', { dueAt: at(6) });
    const facts = known([], { extensions: new Map([[sheet.id, extension({ dueAt: at(10) })]]) });
    expect(enrolmentProgress(course([sheet]), facts, START, ZONE)).toMatchObject({
      openDues: [at(10)],
      plan: [START + 10],
    });
    const overdueAt = (now: number) => itemStatuses(course([sheet]), facts, now)[0].isOverdue;
    expect([overdueAt(at(8)), overdueAt(at(10)), overdueAt(at(10) + 1)]).toEqual([false, false, true]);
  });

  it('keeps dates of what is open: not of what was handed in or graded, but of what was begun or dismissed', () => {
    const [fresh, begun, handed, graded, dismissed] = [1, 2, 3, 4, 5].map((day) => item('quiz', { dueAt: at(day) }));
    const facts = known([
      [begun, { attempts: [attempt({ started_at: at(0) })] }],
      [handed, { attempts: [attempt({ submitted_at: at(9) })] }],
      [graded, { attempts: [attempt({ score: 3, points: 5, graded_at: at(2) })] }],
      [dismissed, { attempts: [attempt({ submitted_at: at(4), dismissed_at: at(6) })] }],
    ]);
    expect(enrolmentProgress(course([fresh, begun, handed, graded, dismissed]), facts, START, ZONE).openDues).toEqual([
      at(1),
      at(2),
      at(5),
    ]);
  });

  it('says since when each piece waits for us, the oldest first', () => {
    const [first, second, answered] = [item('assignment'), item('assignment'), item('assignment')];
    const facts = known([
      [first, { attempts: [attempt({ submitted_at: at(8) })] }],
      [second, { attempts: [attempt({ submitted_at: at(4) })] }],
      [answered, { attempts: [attempt({ submitted_at: at(1), has_feedback: true })] }],
    ]);
    expect(enrolmentProgress(course([first, second, answered]), facts, START, ZONE).waits).toEqual([at(4), at(8)]);
  });

  it('is the same whatever the hour: days are those of the programme’s zone', () => {
    const page = item('page');
    const facts = known([[page, { days: [{ ...opened(2), first: at(2, 23), last: at(2, 23) }] }]]);
    expect(enrolmentProgress(course([page]), facts, START, 'UTC').doneDays).toEqual([START + 2]);
    expect(enrolmentProgress(course([page]), facts, START, 'Europe/Athens').doneDays).toEqual([START + 3]);
  });
});

describe('the work that drift reads', () => {
  const sheet = () => item('assignment', { dueAt: at(6), points: 20 });

  it('is an entry for each piece of which there is something, with shares of the points', () => {
    const [own, none, page] = [sheet(), sheet(), item('page')];
    const facts = known([
      [own, { attempts: [attempt({ submitted_at: at(5), score: 15, graded_at: at(7) })] }],
      [page, { days: [opened(1)] }],
    ]);
    expect(enrolmentProgress(course([own, none, page]), facts, START, ZONE).work).toEqual([
      [own.id, null, null, null, [[at(5), at(7), 0.75, 20]]],
    ]);
  });

  it('has a score that nobody said when from its hand-in on, and none of points that are none', () => {
    const [undated, pointless] = [sheet(), item('assignment', { points: 0 })];
    const facts = known([
      [undated, { attempts: [attempt({ submitted_at: at(5), score: 10 })] }],
      [pointless, { attempts: [attempt({ submitted_at: at(5), score: 10 })] }],
    ]);
    expect(
      enrolmentProgress(course([undated, pointless]), facts, START, ZONE).work.map(([, , , , tries]) => tries),
    ).toEqual([[[at(5), at(5), 0.5, 20]], [[at(5), null, null, 0]]]);
  });

  it('takes a hand-in that the log alone tells of for handed in, and for nothing that waits to be graded', () => {
    const own = sheet();
    const progress = enrolmentProgress(
      course([own]),
      known([[own, { attempts: withLoggedHandIn([], at(4)) }]]),
      START,
      ZONE,
    );
    expect(progress.work).toEqual([[own.id, null, null, null, [[at(4), null, null, 20]]]]);
    expect(progress).toMatchObject({ done: 1, openDues: [], waits: [] });
  });

  it('has extensions and excusals with the instants from which they were known', () => {
    const [longer, excused, marked] = [sheet(), sheet(), sheet()];
    const facts = known(
      [
        [excused, { excusedAt: at(4) }],
        [marked, { override: { state: 'exempt', at: at(5), by: null, reason: '' } }],
      ],
      { extensions: new Map([[longer.id, extension({ dueAt: at(12), at: at(3) })]]) },
    );
    expect(enrolmentProgress(course([longer, excused, marked]), facts, START, ZONE).work).toEqual([
      [longer.id, at(12), at(3), null, []],
      [excused.id, null, null, at(4), []],
      [marked.id, null, null, at(5), []],
    ]);
  });

  it('leaves out what was dismissed, and the checks at a unit’s beginning and end', () => {
    const [own, check] = [sheet(), { ...sheet(), stage: 'before' as const }];
    const tries = [attempt({ submitted_at: at(2), dismissed_at: at(3) }), attempt({ number: 2, submitted_at: at(5) })];
    const facts = known([
      [own, { attempts: tries }],
      [check, { attempts: [attempt({ submitted_at: at(1), score: 2 })] }],
    ]);
    expect(enrolmentProgress(course([own, check]), facts, START, ZONE).work).toEqual([
      [own.id, null, null, null, [[at(5), null, null, 20]]],
    ]);
  });
});

describe('progress over items', () => {
  it('is of required items that are not exempt, and begun by anything done', () => {
    const [page, sheet, quiz] = [item('page'), item('assignment'), item('quiz')];
    const facts = known([
      [page, { days: [opened(1)] }],
      [sheet, { override: { state: 'exempt', at: at(1), by: null, reason: '' } }],
      [quiz, { override: { state: 'done', at: at(2), by: 'Jory', reason: 'shown in the yard' } }],
    ]);
    const { done, required, isBegun, completedAt } = progressOfItems(
      itemStatuses(course([page, sheet, quiz]), facts, at(9)),
    );
    expect({ done, required, isBegun, completedAt }).toEqual({
      done: 2,
      required: 2,
      isBegun: true,
      completedAt: at(2),
    });
  });
});
