import { convertIcsCalendar } from 'ts-ics';
import { describe, expect, it } from 'vitest';
import { NotACalendar, readCalendar } from './calendar-read';
import { writeCalendar, type CalendarSession } from './calendar-write';

const UNTIL = Date.parse('2027-06-01T00:00:00Z');
const options = { course: 'DRY', group: 'A', zone: 'Europe/Dublin', until: UNTIL };

function calendar(...lines: string[]): string {
  return ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//somebody//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n');
}
const event = (...lines: string[]) => ['BEGIN:VEVENT', ...lines, 'END:VEVENT'];
const starts = (text: string, more = {}) =>
  readCalendar(text, { ...options, ...more }).map(({ session_id, starts_at }) => [session_id, starts_at.slice(0, 16)]);

const SERIES = [
  'UID:u1',
  'SUMMARY:Evening',
  'DTSTART;TZID=Europe/Dublin:20261014T183000',
  'DTEND;TZID=Europe/Dublin:20261014T194500',
];

describe('reading a calendar', () => {
  it('gives one session with its place, length and course', () => {
    const text = calendar(
      ...event('UID:x', 'SUMMARY:Workshop', 'DTSTART:20261121T093000Z', 'DURATION:PT2H', 'LOCATION:Shed 4'),
    );
    expect(readCalendar(text, options)).toEqual([
      {
        course: 'DRY',
        group: 'A',
        session_id: 'x',
        title: 'Workshop',
        starts_at: '2026-11-21T09:30:00.000Z',
        ends_at: '2026-11-21T11:30:00.000Z',
        mode: 'in_person',
        place: 'Shed 4',
        cancelled: 'no',
      },
    ]);
  });

  it('keeps a weekly time by the wall clock when the clocks change, without a description of the zone', () => {
    expect(starts(calendar(...event(...SERIES, 'RRULE:FREQ=WEEKLY;COUNT=3')))).toEqual([
      ['u1/2026-10-14T18:30', '2026-10-14T17:30'],
      ['u1/2026-10-21T18:30', '2026-10-21T17:30'],
      ['u1/2026-10-28T18:30', '2026-10-28T18:30'],
    ]);
  });

  it('leaves out days, adds days, moves and cancels instances', () => {
    const text = calendar(
      ...event(
        ...SERIES,
        'RRULE:FREQ=WEEKLY;UNTIL=20261111T235959Z',
        'EXDATE;TZID=Europe/Dublin:20261021T183000',
        'RDATE;TZID=Europe/Dublin:20261117T183000',
      ),
      ...event(
        'UID:u1',
        'SUMMARY:Moved',
        'RECURRENCE-ID:20261028T183000Z',
        'DTSTART:20261029T190000Z',
        'DTEND:20261029T200000Z',
      ),
      ...event(
        'UID:u1',
        'SUMMARY:Evening',
        'STATUS:CANCELLED',
        'RECURRENCE-ID;TZID=Europe/Dublin:20261104T183000',
        'DTSTART;TZID=Europe/Dublin:20261104T183000',
        'DTEND;TZID=Europe/Dublin:20261104T194500',
      ),
    );
    const rows = readCalendar(text, options);
    expect(
      rows.map(({ session_id, starts_at, cancelled }) => [session_id.slice(3), starts_at.slice(0, 16), cancelled]),
    ).toEqual([
      ['2026-10-14T18:30', '2026-10-14T17:30', 'no'],
      ['2026-10-28T18:30', '2026-10-29T19:00', 'no'],
      ['2026-11-04T18:30', '2026-11-04T18:30', 'yes'],
      ['2026-11-11T18:30', '2026-11-11T18:30', 'no'],
      ['2026-11-17T18:30', '2026-11-17T18:30', 'no'],
    ]);
    expect(rows[1]).toMatchObject({ title: 'Moved', ends_at: '2026-10-29T20:00:00.000Z' });
  });

  it('reads a zone of the file’s own, and takes a time without one as of the import’s zone', () => {
    const own = [
      'BEGIN:VTIMEZONE',
      'TZID:Harbour time',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      'TZOFFSETFROM:+0300',
      'TZOFFSETTO:+0300',
      'END:STANDARD',
      'END:VTIMEZONE',
    ];
    const text = calendar(
      ...own,
      ...event('UID:a', 'SUMMARY:A', 'DTSTART;TZID=Harbour time:20261014T183000', 'DURATION:PT1H'),
      ...event('UID:b', 'SUMMARY:B', 'DTSTART:20261014T183000', 'DURATION:PT1H'),
    );
    expect(starts(text)).toEqual([
      ['a', '2026-10-14T15:30'],
      ['b', '2026-10-14T17:30'],
    ]);
  });

  it('ends a rule that has no end, and refuses what is no timetable, row by row', () => {
    const endless = starts(calendar(...event(...SERIES, 'RRULE:FREQ=WEEKLY')));
    expect(endless.length).toBe(33);
    const odd = calendar(
      ...event('UID:s', 'SUMMARY:S', 'DTSTART:20261014T183000Z', 'RRULE:FREQ=SECONDLY'),
      ...event('UID:m', 'SUMMARY:M', 'DTSTART:20271345T990000Z', 'DURATION:PT1H'),
      ...event('UID:d', 'SUMMARY:D', 'DTSTART;VALUE=DATE:20261014'),
    );
    const strange = 'by a rule that is no';
    expect(starts(odd).map(([id, at]) => [id, at.slice(0, 20)])).toEqual([
      ['s', strange.slice(0, 16)],
      ['m', 'a time that there is not'.slice(0, 16)],
      ['d', 'all day'],
    ]);
    expect(() => readCalendar('BEGIN:VCALENDAR\r\nnonsense', options)).toThrow(NotACalendar);
  });

  it.each([
    'FREQ=WEEKLY;INTERVAL=100000000',
    'FREQ=DAILY;BYMONTHDAY=-1',
    'FREQ=DAILY;INTERVAL=7;BYDAY=FR',
    'FREQ=WEEKLY;BYMONTH=7,5;BYWEEKNO=-53',
    'FREQ=DAILY;BYDAY=5TH,1FR',
    'FREQ=YEARLY;BYYEARDAY=366',
    'FREQ=HOURLY',
    'FREQ=FORTNIGHTLY',
  ])('does not look for instances of %s, which may never come', (rule) => {
    const began = performance.now();
    const read = () => readCalendar(calendar(...event(...SERIES, `RRULE:${rule}`)), options);
    try {
      expect(read()).toMatchObject([{ starts_at: 'by a rule that is no timetable’s' }]);
    } catch (error) {
      expect(error).toBeInstanceOf(NotACalendar);
    }
    expect(performance.now() - began).toBeLessThan(2000);
  });

  it.each([
    ['FREQ=MONTHLY;BYDAY=2WE;COUNT=3', ['2026-10-14', '2026-11-11', '2026-12-09']],
    ['FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1;COUNT=2', ['2026-10-30', '2026-11-30']],
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=WE,FR;COUNT=4', ['2026-10-14', '2026-10-16', '2026-10-28', '2026-10-30']],
    ['FREQ=WEEKLY;UNTIL=20261028T183000Z', ['2026-10-14', '2026-10-21', '2026-10-28']],
    ['FREQ=WEEKLY;UNTIL=20261028', ['2026-10-14', '2026-10-21', '2026-10-28']],
    ['FREQ=WEEKLY;UNTIL=20261028T182959Z', ['2026-10-14', '2026-10-21']],
    ['FREQ=MONTHLY;BYMONTHDAY=31;BYMONTH=2,4', []],
  ])('works out %s', (rule, days) => {
    const rows = readCalendar(calendar(...event(...SERIES, `RRULE:${rule}`)), options);
    expect(rows.map(({ starts_at }) => starts_at.slice(0, 10))).toEqual(days);
  });

  it('reads a zone of the file’s own that changes its clock', () => {
    const change = (kind: string, from: string, to: string, when: string) => [
      `BEGIN:${kind}`,
      'DTSTART:19700101T020000',
      `TZOFFSETFROM:${from}`,
      `TZOFFSETTO:${to}`,
      `RRULE:FREQ=YEARLY;BYMONTH=${when}`,
      `END:${kind}`,
    ];
    const text = calendar(
      'BEGIN:VTIMEZONE',
      'TZID:Harbour',
      ...change('DAYLIGHT', '+0000', '+0100', '3;BYDAY=-1SU'),
      ...change('STANDARD', '+0100', '+0000', '10;BYDAY=-1SU'),
      'END:VTIMEZONE',
      ...event(
        'UID:a',
        'SUMMARY:A',
        'DTSTART;TZID=Harbour:20261021T183000',
        'DURATION:PT1H',
        'RRULE:FREQ=WEEKLY;COUNT=2',
      ),
    );
    expect(starts(text).map(([, at]) => at)).toEqual(['2026-10-21T17:30', '2026-10-28T18:30']);
  });

  it('takes course and group from the categories where nobody names them', () => {
    const text = calendar(
      ...event('UID:x', 'SUMMARY:W', 'DTSTART:20261121T093000Z', 'DURATION:PT2H', 'CATEGORIES:NET/B'),
    );
    expect(readCalendar(text, { zone: 'UTC', until: UNTIL })).toMatchObject([{ course: 'NET', group: 'B' }]);
  });
});

describe('writing a calendar', () => {
  const session: CalendarSession = {
    session_id: 'DRY-A-03',
    course: 'DRY',
    course_title: 'Drystone Walling; Foundations, part 1',
    group: 'A',
    title: 'Week 3, evening; with\na second line',
    starts_at: Date.parse('2026-10-28T18:30:00Z'),
    ends_at: Date.parse('2026-10-28T19:45:00Z'),
    mode: 'online',
    place: 'https://meet.saltholm.example/dry-a?x=1,2;3',
    cancelled: 0,
    reason: '',
    sequence: 2,
    changed_at: Date.parse('2026-10-20T08:00:00Z'),
  };

  it('can be read by another reader than the one that wrote it', () => {
    const text = writeCalendar('Hesper Vane’s sessions', [
      session,
      { ...session, session_id: 'x', cancelled: 1, reason: 'storm' },
    ]);
    expect(Math.max(...text.split('\r\n').map((line) => Buffer.byteLength(line)))).toBeLessThanOrEqual(75);
    const read = convertIcsCalendar(undefined, text);
    expect(read.events).toHaveLength(2);
    const [first, second] = read.events!;
    expect(first).toMatchObject({
      uid: 'DRY-A-03@lee-shore',
      summary: session.title,
      location: session.place,
      sequence: 2,
      status: 'CONFIRMED',
      categories: ['DRY/A'],
    });
    expect([first.start.date.getTime(), first.end!.date.getTime()]).toEqual([session.starts_at, session.ends_at]);
    expect(second.status).toBe('CANCELLED');
  });

  it('comes back as it went out', () => {
    expect(readCalendar(writeCalendar('x', [session]), { zone: 'UTC', until: UNTIL })).toEqual([
      {
        course: 'DRY',
        group: 'A',
        session_id: 'DRY-A-03',
        title: session.title,
        starts_at: '2026-10-28T18:30:00.000Z',
        ends_at: '2026-10-28T19:45:00.000Z',
        mode: 'online',
        place: session.place,
        cancelled: 'no',
      },
    ]);
  });
});
