import { describe, expect, it } from 'vitest';
import { channelOf } from './recipient';
import { againstWishes, readWishes } from './wishes';

describe('what a learner wishes', () => {
  it('is read from a list, whatever else stands in it', () => {
    expect(readWishes('all,post,email')).toEqual(['email', 'all']);
    expect([readWishes(null), readWishes('')]).toEqual([[], []]);
  });

  it('stops a message by that channel, and every one where it is not at all', () => {
    expect(againstWishes(['email'], 'email')).toBe('asked to be written to not by e-mail');
    expect(againstWishes(['email'], 'sms')).toBeNull();
    expect(againstWishes(['all'], 'sms')).toBe('asked not to be written to');
  });

  it('sends a message by the other channel, where there is an address for it and nobody asked for one', () => {
    const person = { email: 'a@b.example', phone: '+44 1632 960001', preferred: null };
    expect(channelOf({ ...person, wishes: ['email'] }, 'preferred')).toBe('sms');
    expect(channelOf({ ...person, preferred: 'sms', wishes: ['sms'] }, 'preferred')).toBe('email');
    expect(channelOf({ ...person, phone: null, wishes: ['email'] }, 'preferred')).toBe('email');
    expect(channelOf({ ...person, wishes: ['email'] }, 'email')).toBe('email');
  });
});
