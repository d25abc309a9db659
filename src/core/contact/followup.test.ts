import { describe, expect, it } from 'vitest';
import { DAY } from '../time/zone';
import { cameBack } from './came-back';
import { whatStops, type Recipient } from './recipient';
import { fill, unknownFields } from './template';

describe('came back', () => {
  const contactAt = Date.parse('2026-11-10T09:00:00Z');
  const ask = (lastBefore: number | null, firstAfter: number | null) =>
    cameBack({ contactAt, lastBefore, firstAfter }, 'Europe/Dublin');

  it('is the first event within 7 days after a quiet of 3 days or more', () => {
    expect(ask(contactAt - 3 * DAY, contactAt + DAY)).toBe(contactAt + DAY);
    expect(ask(contactAt - 3 * DAY, contactAt + 7 * DAY)).toBe(contactAt + 7 * DAY);
    expect(ask(contactAt - 3 * DAY, contactAt + 7 * DAY + 1)).toBeNull();
    expect(ask(contactAt - 2 * DAY, contactAt + DAY)).toBeNull();
  });

  it('counts somebody never seen as quiet, and nobody who never came', () => {
    expect(ask(null, contactAt + 1)).toBe(contactAt + 1);
    expect(ask(null, null)).toBeNull();
  });
});

describe('a text with fields', () => {
  const facts = {
    given_name: 'Ines',
    course: 'Hatchery Technician',
    group: 'Group A',
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
  };

  it('is filled with the person’s own facts', () => {
    expect(fill('Hello {{given_name}}, {{ days_quiet }} days', facts)).toEqual({
      text: 'Hello Ines, 9 days',
      missing: [],
    });
  });

  it('never has an empty gap: a missing value stays visible and is named once', () => {
    expect(fill('{{last_access}} {{last_access}} {{nothing}}', facts)).toEqual({
      text: '{{last_access}} {{last_access}} {{nothing}}',
      missing: ['last_access', 'nothing'],
    });
  });

  it('does not fill in what a value contains', () => {
    expect(fill('{{given_name}}', { ...facts, given_name: '{{course}}' }).text).toBe('{{course}}');
  });

  it('names fields that do not exist', () => {
    expect(unknownFields('{{given_name}} {{surname}} {{constructor}} {{surname}}')).toEqual(['surname', 'constructor']);
  });

  it('stops for a person without an address or a value', () => {
    const person: Recipient = {
      key: '1',
      receiver: 'learner',
      to: 'Ines',
      sentence: null,
      id: 1,
      learnerId: 'L1',
      name: 'Ines',
      email: 'i@learner.example',
      phone: '+44 1632 960001',
      preferred: null,
      wishes: [],
      timezone: null,
      facts,
      contacted: null,
    };
    expect(whatStops(person, { subject: 'Hi', body: '{{given_name}}' })).toBeNull();
    expect(whatStops(person, { subject: '{{last_access}}', body: '{{last_access}}' })).toBe(
      'has no value for last_access',
    );
    expect(whatStops({ ...person, email: null }, { subject: 'Hi', body: 'x' })).toBe('has no e-mail address');
  });
});
