import { describe, expect, it } from 'vitest';
import { spreadLate, weeksBehind } from './behind';
import { tellingOn } from './evidence';
import { absenceFor } from './absence';
import { missing } from './missing';
import { DEFAULT_MODEL } from './model';
import { groupReadings, type CourseDates, type Member } from './readings';
import { daily, facts } from './testing';
import { NO_WORK, layOutWork } from './work';
import type { LearnerItem, DueItem } from './work-facts';

const DAY = 86_400_000;
const weekly: DueItem[] = [7, 14, 21, 28, 35, 42, 49, 56].map((dueDay, index) => ({
  itemId: index,
  dueDay,
  dueAt: dueDay * DAY,
  opensDay: 0,
}));
const handedIn = (days: readonly (number | null)[]): LearnerItem[] =>
  days.map((day, itemId) => ({
    itemId,
    dueAt: null,
    dueDay: null,
    extendedDay: null,
    excusedDay: null,
    handedInAt: day === null ? null : day * DAY,
    handedInDay: day,
    results: [],
  }));
const workOf = (days: readonly (number | null)[]) =>
  layOutWork(weekly, handedIn(days), new Map(weekly.map(({ itemId }, place) => [itemId, place])), {
    tracks: [
      { needs: ['opens'], plan: [5, 12, 19, 26, 33, 40, 47, 54], done: [5, 12, 19, 26] },
      { needs: ['hand_ins'], plan: weekly.map(({ dueDay }) => dueDay!), done: days.filter((day) => day !== null) },
    ],
    doneDays: [],
    required: 16,
    passMark: 50,
    saidByPlatform: [],
  });
const member = (enrolmentId: number, more: Partial<Member> = {}): Member => ({
  enrolmentId,
  enrolledDay: 0,
  endedDay: null,
  before: null,
  days: { activeDays: daily(0, 30, 2), efforts: daily(0, 30, 2).map((day) => [day, 3, 0]) },
  work: workOf([]),
  ...more,
});
const COURSE: CourseDates = { start: 0, end: 70, breaks: [], feedGaps: [] };
const ALL = { opens: { days: daily(0, 30) }, worked: { days: daily(0, 30) } };
const people = [1, 2, 3, 4, 5, 6].map((id) => member(id));
const readOn = (day: number, course: Partial<CourseDates>, members: readonly Member[] = people) =>
  groupReadings(members, { ...COURSE, ...course }, day, day, () => DEFAULT_MODEL);
const reasonOf = (reading: ReturnType<typeof readOn>[number], name: string) =>
  reading.reasons.find(({ factor }) => factor === name);

describe('telling', () => {
  const dues = daily(7, 70, 7);

  it('begins with the first day on which anything was told, and knows nothing before', () => {
    expect([9, 10, 24].map((day) => tellingOn({ days: [10], dues }, day, []))).toEqual(['never', 'told', 'told']);
    expect(tellingOn(undefined, 50, [])).toBe('never');
  });

  it('has stopped after 14 counted days and four usual pauses in which something fell due', () => {
    expect([24, 25].map((day) => tellingOn({ days: [10], dues }, day, []))).toEqual(['told', 'stopped']);
    // Usually every 6 days: four times that.
    const days = [2, 8, 14, 20];
    expect([44, 45].map((day) => tellingOn({ days, dues }, day, []))).toEqual(['told', 'stopped']);
    // A break is no silence, and where nothing fell due nothing is missed.
    expect(tellingOn({ days: [10], dues }, 25, [[11, 12]])).toBe('told');
    expect(tellingOn({ days: [10], dues: [9] }, 60, [])).toBe('told');
    expect(tellingOn({ days: [10] }, 60, [])).toBe('told');
    // It goes on when something comes again.
    expect(tellingOn({ days: [10, 40], dues }, 41, [])).toBe('told');
  });
});

describe('a course that tells nothing of hand-ins', () => {
  it('holds nobody to have handed in nothing, and leaves such items out of the plan', () => {
    const [reading] = readOn(30, { evidence: ALL });
    expect(['missing', 'no_hand_in', 'late', 'marks'].map((name) => reasonOf(reading, name))).toEqual(
      Array(4).fill(undefined),
    );
    expect(reading.untold).toEqual(['missing', 'talking', 'sessions', 'marks', 'falling', 'no_hand_in', 'late']);
    // Four pages planned by now, four opened.
    expect(reasonOf(reading, 'behind')).toMatchObject({ value: 0, says: { done: 4, planned: 4 } });
    const told = readOn(30, { evidence: { ...ALL, hand_ins: { days: [6], dues: [7, 14, 21, 28] } } });
    expect(reasonOf(told[0], 'missing')).toBeUndefined();
    const lately = readOn(30, { evidence: { ...ALL, hand_ins: { days: [6, 28], dues: [7, 14, 21, 28] } } });
    expect(reasonOf(lately[0], 'missing')).toMatchObject({ value: 1 });
    expect(reasonOf(lately[0], 'behind')).toMatchObject({ says: { done: 4, planned: 8 } });
  });

  it('has nobody away and nobody who never came where no visit is told', () => {
    expect(absenceFor(facts({ untold: new Set(['opens']) }))).toBeNull();
    expect(readOn(30, { evidence: {} })[0]).toMatchObject({ absence: null, score: null, without: 'little' });
  });
});

describe('a log that has stopped', () => {
  it('leaves readings as they stood, however long it is silent', () => {
    const work = workOf([6, 13, 20, null]);
    const members = people.map(({ enrolmentId }) => member(enrolmentId, { work }));
    const evidence = { ...ALL, hand_ins: { days: [6, 13, 20], dues: [7, 14, 21, 28, 35, 42] } };
    const [stood] = readOn(30, { evidence }, members);
    for (const day of [31, 37, 44, 60]) {
      const [later] = readOn(day, { evidence, silent: { from: 31, after: 30.9 * DAY } }, members);
      expect(later).toMatchObject({ score: stood.score, absence: stood.absence, stoodOn: 30, without: null });
    }
    expect(readOn(37, { evidence }, members)[0].score).toBeGreaterThan(stood.score!);
    expect(stood.stoodOn).toBeNull();
  });

  it('judges hand-ins that results still tell of', () => {
    const evidence = { ...ALL, hand_ins: { days: [6, 13, 20, 27, 36], dues: [7, 14, 21, 28, 35, 42] } };
    const [reading] = readOn(44, { evidence, silent: { from: 31, after: 30.9 * DAY } });
    // Those due by the 36th; what fell due on the 42nd nobody has told of yet.
    expect(reasonOf(reading, 'missing')!.says).toMatchObject({ of: 4 });
  });

  it('has whoever came meanwhile too early to read', () => {
    const came = [member(9, { enrolledDay: 33 })];
    expect(readOn(45, { evidence: ALL, silent: { from: 31, after: 30.9 * DAY } }, came)[0]).toMatchObject({
      score: null,
      without: 'early',
    });
  });
});

describe('whoever came late', () => {
  const late = facts({ day: 44, enrolledDay: 35, courseEnd: 70, work: workOf([null, null, null, null, null, 41]) });

  it('is not held to what fell due before their seventh day', () => {
    // Those of the 28th and the 35th fell due before the 41st, which is their seventh.
    expect(missing.assess(late, undefined)).toMatchObject({ value: 0, says: { missing: 0, of: 1 } });
  });

  it('has what was planned before their day spread over the rest of the course', () => {
    expect(spreadLate([[3, 8, 30]], 10, 30)).toEqual([[20, 30, 30]]);
    expect(spreadLate([[3], [8], []], 10, 30)).toEqual([[20], [30], []]);
    expect(spreadLate([[12, 30]], 10, 30)).toEqual([[12, 30]]);
    // A course that was over when they came has no days to spread it over.
    expect(spreadLate([[3, 8]], 30, 30)).toEqual([[3, 8]]);
  });
});

describe('a course without dates', () => {
  it('has no plan to be behind', () => {
    const work = { ...NO_WORK, tracks: [{ needs: [], plan: [10, 20, 30, 40, 50], done: [] }] };
    expect(weeksBehind(facts({ work }))).not.toBeNull();
    expect(weeksBehind(facts({ work, courseEnd: null }))).toBeNull();
    expect(weeksBehind(facts({ work, courseStart: null }))).toBeNull();
  });
});
