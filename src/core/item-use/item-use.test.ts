import { describe, expect, it } from 'vitest';
import { activityWords } from './who-did';
import { itemUseNotice, sayItemUseNotice, usualReturn, type ItemUseFacts } from './item-use';

const now = Date.parse('2026-11-24T09:10:00Z');
const facts = (more: Partial<ItemUseFacts>): ItemUseFacts => ({
  base: 20,
  openers: 12,
  returners: 3,
  opens_at: null,
  changed_at: null,
  opened_since_changed: null,
  ...more,
});

describe('what stands out about an item', () => {
  it.each([
    ['nothing, of an item like others', {}, null],
    ['nobody opened it', { openers: 0, returners: 0 }, 'opened by nobody'],
    ['it is not open yet', { openers: 0, returners: 0, opens_at: now + 86_400_000 }, 'opens Wed 25 Nov'],
    ['nobody is enrolled', { base: 0, openers: 0, returners: 0 }, null],
    ['most come back', { returners: 9 }, '9 of 12 come back to it'],
    ['most of too few come back', { openers: 4, returners: 4 }, null],
    ['most of a small share come back', { base: 100, returners: 12 }, null],
    [
      'its change was seen by nobody',
      { changed_at: now - 86_400_000, opened_since_changed: 0 },
      'changed Mon 23 Nov: nobody has seen that',
    ],
    ['its change was seen by one', { changed_at: now - 86_400_000, opened_since_changed: 1 }, null],
  ])('%s', (_, more, says) => {
    const all = facts(more);
    const mark = itemUseNotice(all, now);
    expect(mark && sayItemUseNotice(mark, all, 'Europe/Dublin', now)).toBe(says);
  });
});

it('says of an item that people come back to it only where more do than to the usual one', () => {
  const items = [
    facts({ returners: 9 }),
    facts({ returners: 9 }),
    facts({ returners: 12 }),
    facts({ openers: 2, returners: 0 }),
  ];
  const usual = usualReturn(items);
  expect(usual).toBe(0.75);
  expect(items.map((one) => itemUseNotice(one, now, usual))).toEqual([null, null, 'returned', null]);
  expect(usualReturn([])).toBe(0);
});

describe('a deed in words', () => {
  it.each([
    [{ item: 'Footings' }, 'did something in Footings'],
    [{ kind: 'talked', itemKind: 'discussion', unit: 'Week 3' }, 'talked in any discussion of Week 3'],
    [{ kind: 'looked', item: 'Footings', unit: 'Week 3' }, 'looked at Footings'],
    [{ action: 'submitted' }, 'did “submitted” in any item'],
  ] as const)('%j', (asked, says) => expect(activityWords(asked)).toBe(says));
});
