import { describe, expect, it } from 'vitest';
import { coursesOfClasses, type RosterClass } from './courses';
import { enrolmentOf } from './enrolment';
import { oneRosterFolder } from './files';

const one = (id: string, more: Partial<RosterClass> = {}): RosterClass => ({
  id,
  title: `Group ${id}`,
  code: '',
  courseId: 'c1',
  courseTitle: 'Drystone Walling',
  courseCode: 'DRY',
  terms: ['t1'],
  begins: '2026-09-28',
  ends: '2026-12-21',
  ...more,
});
const shown = (classes: RosterClass[]) =>
  [...coursesOfClasses(classes)].map(([id, { code, group }]) => `${id}: ${code}/${group}`);

describe('an archive of OneRoster', () => {
  it('is told by the files that enrol people', () => {
    expect(oneRosterFolder(['users.csv', 'classes.csv', 'enrollments.csv', 'more.txt'])).toBe('');
    expect(oneRosterFolder(['x/users.csv', 'x/classes.csv', 'x/enrollments.csv'])).toBe('x/');
    expect(oneRosterFolder(['users.csv', 'classes.csv'])).toBeNull();
    expect(oneRosterFolder(['my-users.csv', 'my-classes.csv', 'my-enrollments.csv'])).toBeNull();
  });
});

describe('classes', () => {
  it('are the groups of their course', () => {
    expect(shown([one('A'), one('B')])).toEqual(['A: DRY/Group A', 'B: DRY/Group B']);
    expect(coursesOfClasses([one('A')]).get('A')).toMatchObject({ title: 'Drystone Walling', begins: '2026-09-28' });
  });
  it('without a name of their own are no group', () => {
    expect(shown([one('A', { title: 'Drystone Walling' })])).toEqual(['A: DRY/']);
    expect(shown([one('A', { title: 'DRY' })])).toEqual(['A: DRY/']);
  });
  it('of other terms are another course', () => {
    expect(shown([one('A'), one('B', { terms: ['t2'] })])).toEqual(['A: DRY-t1/Group A', 'B: DRY-t2/Group B']);
    expect(shown([one('A', { terms: ['t1', 't2'] }), one('B', { terms: ['t2', 't1'] })])).toEqual([
      'A: DRY/Group A',
      'B: DRY/Group B',
    ]);
  });
  it('of courses that share a code, or a name within one, are told apart', () => {
    expect(shown([one('A'), one('B', { courseId: 'c2' })])).toEqual(['A: DRY-c1/Group A', 'B: DRY-c2/Group B']);
    expect(shown([one('A', { title: 'X' }), one('B', { title: 'X' })])).toEqual(['A: DRY/X (A)', 'B: DRY/X (B)']);
    expect(shown([one('A', { courseCode: '', courseId: 'a/b' })])).toEqual(['A: a-b/Group A']);
  });
});

describe('an enrolment', () => {
  const course = { begins: '2026-09-28', ends: '2026-12-21' };
  const stands = (more: object, of = course) =>
    enrolmentOf({ status: 'active', beginDate: '', endDate: '', dateLastModified: '', ...more }, of, '2026-11-24');
  it('begins on its day, else with its class', () => {
    expect(stands({ beginDate: '2026-10-05' })).toEqual({ enrolled_on: '2026-10-05', status: 'active', ended_on: '' });
    expect(stands({}).enrolled_on).toBe('2026-09-28');
    expect(stands({}, { begins: '', ends: '' }).enrolled_on).toBe('');
  });
  it('that ended before its class has been left, one that ends with it has not', () => {
    expect(stands({ endDate: '2026-10-30' })).toMatchObject({ status: 'withdrawn', ended_on: '2026-10-30' });
    expect(stands({ endDate: '2026-12-21' }).status).toBe('active');
    expect(stands({ endDate: '2026-11-01' }, { begins: '2026-09-01', ends: '2026-11-01' }).status).toBe('active');
  });
  it('that is taken away ended when it was, never ahead', () => {
    const gone = { status: 'tobedeleted', dateLastModified: '2026-11-02T10:00:00Z' };
    expect(stands(gone)).toMatchObject({ status: 'withdrawn', ended_on: '2026-11-02' });
    expect(stands({ ...gone, endDate: '2026-12-21' }).ended_on).toBe('2026-11-02');
    expect(stands({ ...gone, dateLastModified: '2027-01-01T00:00:00Z' }).ended_on).toBe('');
  });
});
