import { describe, expect, it } from 'vitest';
import { dayFromDate, dayOf } from '@/core/time/zone';
import { drawTraits, presence } from './behaviour';
import { demoCourses, lastYearsCourses, outlineRows } from './courses';
import { demoLastYear, lastResultRows, lastRosterRows } from './last-year';
import { demoLog, logRows, outage } from './log';
import { STAFF, demoLearners, rosterRows, staffRows } from './people';
import { seeded } from './random';
import { demoPosts, surveyRows } from './writings';
import { demoSessions, markRows, presenceFileRows, sessionRows } from './sessions';

const zone = 'Europe/Dublin';
const now = Date.parse('2026-11-24T09:10:00Z');
const today = dayOf(now, zone);

function make(seed = 1632) {
  const random = seeded(seed);
  const courses = demoCourses(today);
  const learners = demoLearners(random, courses, today);
  return { courses, learners, log: demoLog(random, courses, learners, now, today, zone) };
}

describe('the demo', () => {
  const demo = make();

  it('is the same for the same seed and now, and another for another seed', () => {
    const again = make();
    expect(logRows(again.log)).toEqual(logRows(demo.log));
    expect(rosterRows(again.learners)).toEqual(rosterRows(demo.learners));
    expect(rosterRows(make(7).learners)).not.toEqual(rosterRows(demo.learners));
  });

  it('has about 240 learners and 150,000 events, none after now', () => {
    expect(demo.learners).toHaveLength(240);
    expect(demo.log.length).toBeGreaterThan(130_000);
    expect(demo.log.length).toBeLessThan(180_000);
    expect(Math.max(...demo.log.slice(-500).map((row) => row.at))).toBeLessThanOrEqual(now);
    for (let i = 1; i < demo.log.length; i += 1) {
      if (demo.log[i].at < demo.log[i - 1].at) throw new Error(`row ${i} is out of order`);
    }
  });

  it('stands in week 8 to 10 of courses of 12 to 16 weeks with two groups each', () => {
    for (const { startDay, weeks, groups } of demo.courses) {
      const week = Math.floor((today - startDay) / 7) + 1;
      expect([8, 9, 10]).toContain(week);
      expect([12, 14, 16]).toContain(weeks);
      expect(groups).toHaveLength(2);
    }
  });

  it('has the cases that every list has to cope with', () => {
    const names = demo.learners.map((one) => `${one.givenName} ${one.familyName}`);
    expect(names.filter((name) => name === 'Oriel Kettle')).toHaveLength(2);
    expect(demo.learners.some((one) => one.enrolments.length === 3)).toBe(true);
    expect(demo.learners.some((one) => one.email === '')).toBe(true);
    const both = demo.learners.find((one) => STAFF.some((staff) => staff.email === one.email))!;
    expect(both.enrolments.map((one) => one.course.code)).toEqual(['TTU']);
    expect(demo.learners.some((one) => one.enrolments.some((e) => e.status === 'withdrawn'))).toBe(true);
  });

  it('has a log without a hole but the outage, and no film progress where none is sent', () => {
    const [from, to] = outage(today);
    const north = demo.log.filter((row) => row.source === 'campus north').map((row) => dayOf(row.at, zone));
    expect(north.filter((day) => day >= from && day <= to)).toEqual([]);
    expect(north).toContain(from - 1);
    expect(demo.log.some((row) => row.course === 'TTU' && row.action === 'progressed')).toBe(false);
    expect(demo.log.some((row) => row.course === 'CPR' && row.action === 'progressed')).toBe(true);
  });

  it('uses only numbers and addresses kept for fiction', () => {
    for (const { phone, email } of demo.learners) {
      expect(phone).toMatch(/^(\+44 1632 960\d{3})?$/);
      expect(email).toMatch(/^(.+\.example)?$/);
    }
    for (const [, , , email] of staffRows().slice(1)) expect(email).toMatch(/\.example$/);
  });

  it('never opens an item before its week, nor has one fall due before it opens', () => {
    const opens = new Map(demo.courses.flatMap((course) => course.items.map((item) => [item.id, item.opensDay])));
    for (const { item, at, who } of demo.log) {
      if (item === '' || who.startsWith('S-')) continue;
      if (dayOf(at, zone) < opens.get(item)!) throw new Error(`${item} was opened too early`);
    }
    for (const row of outlineRows(demo.courses, zone).slice(1)) if (row[10]) expect(row[10] > row[9]).toBe(true);
  });
});

describe('behaviour', () => {
  const day = dayFromDate('2026-11-18')!;
  const traits = (behaviour: Parameters<typeof drawTraits>[1]) => ({
    ...drawTraits(seeded(1), behaviour, 60),
    turn: 30,
    back: 50,
  });

  it('is lived day by day', () => {
    expect(presence(traits('never_started'), day, 10)).toBe(0);
    expect(presence(traits('sudden_stop'), day, 31)).toBe(0);
    expect(presence(traits('late_starter'), day, 29)).toBe(0);
    expect(presence(traits('late_starter'), day, 31)).toBeGreaterThan(0.4);
    expect(presence(traits('stop_and_return'), day, 40)).toBe(0);
    expect(presence(traits('stop_and_return'), day, 55)).toBeGreaterThan(0.4);
    expect(presence(traits('slow_fader'), day, 60)).toBeLessThan(presence(traits('slow_fader'), day, 10));
    expect(presence(traits('weekend_only'), day + 3, 10)).toBeGreaterThan(0.8);
  });
});

describe('the demo’s sessions', () => {
  const { courses, learners, log } = make();
  const all = () => demoSessions(seeded(7), courses, learners, log, now, zone);
  const demo = all();

  it('are the same for the same seed and now', () => {
    const again = all();
    for (const rows of [sessionRows, presenceFileRows, markRows]) expect(rows(again)).toEqual(rows(demo));
  });

  it('are a term of them, one on now, one that was not held, and two whose roll nobody has taken', () => {
    const over = demo.sessions.filter(({ ends }) => ends <= now);
    expect(demo.sessions.filter(({ starts, ends }) => starts <= now && ends > now)).toMatchObject([
      { course: 'HAT', group: 'A' },
    ]);
    expect(demo.sessions.filter(({ cancelled }) => cancelled).length).toBeGreaterThan(0);
    const marked = new Set(demo.marks.map(({ session }) => session));
    expect(over.filter(({ id, cancelled }) => !cancelled && !marked.has(id))).toHaveLength(2);
    const rest = courses.find(({ code }) => code === 'HAT')!.rest!;
    const days = demo.sessions.filter(({ course }) => course === 'HAT').map(({ starts }) => dayOf(starts, zone));
    expect(days.filter((day) => day >= rest[0] && day <= rest[1])).toEqual([]);
  });

  it('play a class with one who drops out eleven times, one who leaves after four minutes, two devices and a stranger', () => {
    const { people } = demo.meeting;
    expect(people[0].stays).toHaveLength(12);
    expect(people[1].stays).toEqual([[1, 5]]);
    expect(people.some(({ person }) => person.endsWith('(phone)'))).toBe(true);
    expect(people.at(-1)!.person).toBe('Front desk');
  });

  it('have presence of people who are enrolled, within their sessions', () => {
    const known = new Set(demo.sessions.map(({ id }) => id));
    expect(demo.presence.every(({ session }) => known.has(session))).toBe(true);
    expect(demo.presence.every(({ stay }) => stay.left === null || stay.left >= stay.entered)).toBe(true);
    expect(demo.marks.length).toBeGreaterThan(1500);
  });
});

describe('last year', () => {
  const make = () => demoLastYear(seeded(1635), lastYearsCourses(today), zone);
  const year = make();
  const people = year.people.flatMap(({ own }) => own);

  it('is two courses that have ended, of about 300 people who finished or left, and the same every time', () => {
    expect(year.courses.map(({ code }) => code)).toEqual(['DRY25', 'SBE25']);
    for (const { startDay, weeks } of year.courses) expect(startDay + weeks * 7).toBeLessThan(today - 180);
    expect(people).toHaveLength(300);
    const left = people.filter(({ leftDay }) => leftDay !== null).length;
    expect(left).toBeGreaterThan(60);
    expect(left).toBeLessThan(120);
    expect(lastRosterRows(make())).toEqual(lastRosterRows(year));
    // Nobody of last year is on this year's Watch.
    expect(lastRosterRows(year).every((row) => row[8] !== 'active')).toBe(true);
    expect(
      lastRosterRows(year)
        .slice(1)
        .every((row) => row[3].endsWith('.example')),
    ).toBe(true);
  });

  it('has nothing of anybody after they left, and no result of an item that is not there', () => {
    const left = new Map(people.map(({ id, leftDay }) => [id, leftDay]));
    for (const { who, at } of year.log) {
      const day = left.get(who);
      if (day !== null && dayOf(at, zone) > day!) throw new Error(`${who} was there after they left`);
    }
    const items = new Set(year.courses.flatMap((course) => course.items.map(({ id }) => id)));
    expect(
      lastResultRows(year)
        .slice(1)
        .every(([, course, item]) => items.has(item) && item.startsWith(course)),
    ).toBe(true);
    const ofLive = year.marks.length;
    expect(ofLive).toBeGreaterThan(1000);
    expect(year.sessions.every(({ course }) => course === 'SBE25')).toBe(true);
  });
});

describe('what learners wrote', () => {
  it('has a post for each line of the log that tells of one, replies to earlier ones of others, and a survey', () => {
    const demo = make();
    const posts = demoPosts(seeded(1), demo.courses, demo.log);
    expect(posts).toHaveLength(demo.log.filter(({ action }) => ['posted', 'replied'].includes(action)).length);
    const byId = new Map(posts.map((post) => [post.id, post]));
    const replies = posts.filter(({ replyTo }) => replyTo !== null);
    expect(replies.length).toBeGreaterThan(100);
    for (const { at, who, item, replyTo } of replies) {
      const before = byId.get(replyTo!)!;
      expect(before.at <= at && before.who !== who && before.item === item).toBe(true);
    }
    const answers = surveyRows(seeded(2), demo.courses, demo.learners, today, zone);
    expect(answers.length).toBeGreaterThan(300);
    expect(answers.filter(([, , who]) => who === '').length).toBeGreaterThan(20);
  });
});
