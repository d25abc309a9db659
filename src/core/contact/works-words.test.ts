import { describe, expect, it } from 'vitest';
import { WORKS_HEADS, sayWorked, sayWorksOf } from './works-words';
import type { Worked } from './does-it-work';

const ROW: Worked = {
  of: 'call',
  contacts: 40,
  answered: 12,
  returned: 10,
  unanswered: 20,
  rate: 0.25,
  interval: { low: 0.142, high: 0.402 },
  like: { contacts: 90, rate: 0.29 },
  withoutLike: 2,
  difference: { value: -0.04, low: -0.1, high: 0.004 },
  daysToContact: 3.25,
};

describe('what came of contacts, in words', () => {
  it('has a figure under each head, intervals beside', () => {
    const said = sayWorked(ROW).map(({ says, beside }) => (beside === '' ? says : `${says} (${beside})`));
    expect(said).toHaveLength(WORKS_HEADS.length);
    expect(said).toEqual(['40', '12', '10, 25 % (14 to 40 %)', '29 % (2 contacts without)', '−4 (−10 to 0)', '3.3']);
  });

  it('says where there was nobody to compare with', () => {
    const alone = {
      ...ROW,
      like: { contacts: 0, rate: null },
      withoutLike: 40,
      difference: { value: null, low: null, high: null },
      daysToContact: null,
    };
    expect(sayWorked(alone).map(({ says }) => says)).toEqual(['40', '12', '10, 25 %', 'none', '', '']);
  });

  it('names a channel and a week, and any other as it is', () => {
    expect([sayWorksOf('channel', 'sms'), sayWorksOf('writer', 'sms'), sayWorksOf('week', '2026-11-02')]).toEqual([
      'text message',
      'sms',
      'week of Mon 2 Nov',
    ]);
  });
});
