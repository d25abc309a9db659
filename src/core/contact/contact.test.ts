import { describe, expect, it } from 'vitest';
import { splitAnswer } from './answer';
import { followUpState } from './follow-up';
import { quietUntil } from './quiet-hours';
import {
  LONGEST_SMS,
  channelOf,
  dialled,
  readReceivers,
  receiverOf,
  textFor,
  whatStops,
  type Recipient,
} from './recipient';
import { fieldFault } from './template';
import { joinTimeline, type TimelineEntry } from './timeline';

const person: Recipient = {
  key: '1',
  receiver: 'learner',
  to: 'Ines Marrow',
  sentence: null,
  id: 1,
  learnerId: 'L1',
  name: 'Ines Marrow',
  email: 'i@learner.example',
  phone: '+44 1632 960001',
  preferred: null,
  wishes: [],
  timezone: null,
  facts: {
    given_name: 'Ines',
    course: 'Net Work',
    group: null,
    days_quiet: '9',
    last_access: null,
    next_due: null,
    next_session: null,
    overdue_list: null,
    missed_sessions: null,
    name: 'Ines Marrow',
    receiver: 'Ines',
    good_news: null,
    my_name: 'Mair Tolland',
  },
  contacted: null,
};

describe('who receives a message', () => {
  it.each([
    ['Family', 'family'],
    [' EMPLOYER ', 'employer'],
    ['interpreter', 'other'],
    ['', 'other'],
  ])('is by the relation %j: %s', (relation, receiver) => {
    expect(receiverOf(relation)).toBe(receiver);
  });

  it('is read in one order, and is the learner where nothing is named', () => {
    expect(readReceivers('organisation, learner,nobody')).toEqual(['learner', 'organisation']);
    expect(readReceivers('')).toEqual(['learner']);
  });

  it('is written the text that is theirs', () => {
    const text = { subject: 'You', body: 'you', other_subject: 'Ines', other_body: '{{last_access}}' };
    expect(textFor(person, text)).toEqual({ subject: 'You', body: 'you' });
    const family: Recipient = { ...person, receiver: 'family' };
    expect(textFor(family, text)).toEqual({ subject: 'Ines', body: '{{last_access}}' });
    expect(whatStops(person, text)).toBeNull();
    expect(whatStops(family, text)).toBe('has no value for last_access');
    expect(textFor(family, { subject: 'You', body: 'you' })).toEqual({ subject: '', body: '' });
  });
});

describe('the channel', () => {
  it('is what one prefers, where there is an address for it', () => {
    expect(channelOf(person, 'preferred')).toBe('email');
    expect(channelOf({ ...person, preferred: 'sms' }, 'preferred')).toBe('sms');
    expect(channelOf({ ...person, preferred: 'sms', phone: null }, 'preferred')).toBe('email');
    expect(channelOf({ ...person, preferred: 'email', email: null }, 'preferred')).toBe('sms');
    expect(channelOf({ ...person, preferred: 'sms' }, 'email')).toBe('email');
  });

  it('stops whom it cannot reach', () => {
    const text = { subject: '{{last_access}}', body: 'x' };
    expect(whatStops({ ...person, phone: 'ask at the office' }, text, 'sms')).toBe('has no phone number');
    // A text message has no subject, so nothing is missing in it.
    expect(whatStops(person, text, 'sms')).toBeNull();
    expect(whatStops(person, text, 'email')).toBe('has no value for last_access');
    expect(whatStops(person, { subject: '', body: 'x'.repeat(LONGEST_SMS + 1) }, 'sms')).toContain('918 characters');
  });

  it.each([
    ['+44 1632 960001', '+441632960001'],
    ['(01632) 960-001', '01632960001'],
    ['12', null],
    ['no phone', null],
    [null, null],
  ])('dials %j as %j', (phone, digits) => {
    expect(dialled(phone)).toBe(digits);
  });
});

describe('fields of a template', () => {
  it('are checked: unknown ones are named, loose braces too', () => {
    expect(fieldFault('Hello {{given_name}}')).toBeNull();
    expect(fieldFault('{{surname}} and {{ }}')).toContain('does not exist: surname, (empty)');
    expect(fieldFault('{{given_name')).toContain('belong to no field');
    expect(fieldFault('a }} b')).toContain('belong to no field');
  });
});

describe('quiet hours', () => {
  const at = (iso: string) => Date.parse(iso);
  it.each([
    ['2026-11-24T20:59:59Z', null],
    ['2026-11-24T21:00:00Z', '2026-11-25T08:00:00Z'],
    ['2026-11-25T00:30:00Z', '2026-11-25T08:00:00Z'],
    ['2026-11-25T07:59:59Z', '2026-11-25T08:00:00Z'],
    ['2026-11-25T08:00:00Z', null],
  ])('in Dublin at %s end at %s', (now, until) => {
    expect(quietUntil(at(now), 'Europe/Dublin')).toBe(until && at(until));
  });

  it('are those of the learner’s own zone', () => {
    expect(quietUntil(at('2026-11-24T20:30:00Z'), 'Europe/Helsinki')).toBe(at('2026-11-25T06:00:00Z'));
    expect(quietUntil(at('2026-11-24T22:00:00Z'), 'Atlantic/Azores')).toBe(at('2026-11-25T09:00:00Z'));
  });

  it('are an hour longer or shorter in the nights when clocks change', () => {
    expect(quietUntil(at('2026-03-28T21:30:00Z'), 'Europe/Dublin')).toBe(at('2026-03-29T07:00:00Z'));
    expect(quietUntil(at('2026-10-24T20:30:00Z'), 'Europe/Dublin')).toBe(at('2026-10-25T08:00:00Z'));
  });
});

describe('an answer', () => {
  it('is apart from what it quotes', () => {
    const text =
      'Yes, on Thursday.\r\n\r\nOn Tue 24 Nov Mair Tolland wrote:\r\n> Hello Ines,\r\n> how is it going?\r\n';
    expect(splitAnswer(text)).toEqual({
      own: 'Yes, on Thursday.',
      quoted: 'On Tue 24 Nov Mair Tolland wrote:\n> Hello Ines,\n> how is it going?',
    });
  });

  it('between the lines is all its own, and one without a quotation too', () => {
    const between = '> how is it going?\nWell.\n> when?\nOn Thursday.';
    expect(splitAnswer(between)).toEqual({ own: between, quoted: '' });
    expect(splitAnswer('On the boat he wrote:\nthe log').own).toContain('the log');
    expect(splitAnswer('').own).toBe('');
  });
});

describe('the state of a follow-up', () => {
  const facts = { dueDay: 110, createdAt: 1, firstAfter: null, attemptAt: null, answerAt: null };
  it.each([
    [{}, 100, 'later'],
    [{}, 110, 'due_today'],
    [{}, 111, 'overdue'],
    [{ attemptAt: 5 }, 100, 'waiting'],
    [{ attemptAt: 5, answerAt: 6 }, 100, 'later'],
    [{ attemptAt: 7, answerAt: 6 }, 100, 'waiting'],
    [{ attemptAt: 5 }, 110, 'due_today'],
    [{ firstAfter: 9 }, 111, 'came_back'],
  ] as const)('%j on day %i is %s', (more, today, state) => {
    expect(followUpState({ ...facts, ...more }, today)).toBe(state);
  });
});

describe('a timeline', () => {
  const note = (at: number, id: number): TimelineEntry => ({
    kind: 'note',
    at,
    id,
    body: '',
    by: '',
    mine: true,
    own: false,
    labels: [],
  });

  it('joins lists, newest first, and never cuts between two of one instant', () => {
    const lists = [
      [note(9, 1), note(5, 2), note(1, 3)],
      [note(5, 4), note(5, 5)],
    ];
    const first = joinTimeline(lists, 2);
    expect(first.entries.map((entry) => entry.at)).toEqual([9, 5, 5, 5]);
    expect(first.older).toBe(4);
    expect(joinTimeline(lists, 5)).toMatchObject({ older: null });
    expect(joinTimeline([], 5)).toEqual({ entries: [], older: null });
  });
});
