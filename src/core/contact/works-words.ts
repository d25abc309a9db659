/** What came of contacts, in words: alike on the page and on paper. */
import { sayShare } from '../percent';
import { sayCount, sayDay } from '../time/words';
import { dayFromDate } from '../time/zone';
import { ANSWER_WITHIN, LEFT_ALONE, LIKE, type Worked } from './does-it-work';

/** What has to be known to read it. */
export const WORKS_LIMITS =
  'People were not drawn by lot: whoever is called may differ from the like in ways that no log shows. It is a comparison and not an effect.';

/** What each column counts. */
export const WORKS_SAYS = `Came back is the first sign within 7 days of a contact, after a quiet of at least 3 days; answered is within ${ANSWER_WITHIN} days. The like are learners of the same course with drift within ${LIKE.drift} points and days quiet within ${LIKE.quiet}, whom nobody contacted from ${LEFT_ALONE} days before to ${LEFT_ALONE} after; the difference is of contacts that have any. In brackets: 95 % of a rate, 90 % of a difference. Days to contact is the median from slipping to the first contact after it.`;

export const WORKS_HEADS = [
  'Contacts',
  'Answered',
  'Came back',
  'The like, left alone',
  'Difference, points',
  'Days to contact',
] as const;

/** Ways of being in touch, in words. */
export const CONTACT_KINDS: Readonly<Record<string, string>> = {
  email: 'e-mail',
  sms: 'text message',
  call: 'call',
  meeting: 'meeting',
};

/** What a row is of. @example sayWorksOf('week', '2026-11-02') // 'week of Mon 2 Nov' */
export function sayWorksOf(by: string, of: string): string {
  if (by === 'channel') return CONTACT_KINDS[of] ?? of;
  return by === 'week' ? `week of ${sayDay(dayFromDate(of) ?? 0)}` : of;
}

/** A difference in points of per cent. @example sayPoints(-0.04) // '−4' */
function sayPoints(value: number): string {
  const points = Math.round(value * 100);
  if (points === 0) return '0';
  return points < 0 ? `−${-points}` : `+${points}`;
}

interface Said {
  says: string;
  /** What stands beside it in brackets; empty for nothing. */
  beside: string;
}

/** The figures of a row in words, under WORKS_HEADS. */
export function sayWorked(row: Worked): Said[] {
  const { contacts, answered, returned, rate, interval, like, withoutLike, difference, daysToContact } = row;
  const percent = (share: number | null) => Math.round(100 * (share ?? 0));
  const plain = (says: string | number) => ({ says: String(says), beside: '' });
  return [
    plain(contacts),
    plain(answered),
    { says: `${returned}, ${sayShare(rate)}`, beside: `${percent(interval.low)} to ${percent(interval.high)} %` },
    {
      says: like.rate === null ? 'none' : sayShare(like.rate),
      beside: withoutLike > 0 ? `${sayCount(withoutLike, 'contact')} without` : '',
    },
    difference.value === null
      ? plain('')
      : {
          says: sayPoints(difference.value),
          beside: `${sayPoints(difference.low ?? difference.value)} to ${sayPoints(difference.high ?? difference.value)}`,
        },
    plain(daysToContact === null ? '' : Math.round(daysToContact * 10) / 10),
  ];
}
