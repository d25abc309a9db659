import { sayCount } from '../time/words';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { Factor } from './types';

interface Missed extends Sentence {
  /** Missed one after the other, up to the last. */
  missed: number;
  /** Sessions that count, and those of them that were attended. */
  of: number;
  attended: number;
}

/** Fewer than these that count say nothing. */
const ENOUGH = 2;

/** A miss is a blip where so many before it were attended, one after the other. */
const BLIP_AFTER = 2;

interface Blip extends Missed {
  /** Attended in a row before the miss. */
  before: number;
}

/** Missed sessions: `ramp(counted sessions missed in a row, 0, 2)`; one not held, or of which nothing is known, counts for nothing. */
export const sessions: Factor = {
  name: 'sessions',
  title: 'Sessions',
  notCounted: 'sessions (fewer than two have counted)',
  weight: { early: 10, late: 10 },
  needs: ['sessions'],
  evidence: 'sessions',
  words: {
    sessions_attended: ({ of, attended }: Missed): Said => ({
      fact: 'At the last session',
      more: [`${attended} of ${of} attended`],
      short: 'at the last session',
    }),
    session_blip: ({ before }: Blip): Said => ({
      fact: 'Missed the last session: a blip',
      more: [`at the ${before} before it`],
      short: 'missed one session, a blip',
    }),
    sessions_missed: ({ missed, of, attended }: Missed): Said => ({
      fact: missed === 1 ? 'Missed the last session' : `Missed the last ${sayCount(missed, 'session')}`,
      more: [attended === 0 ? `none of ${of} attended` : `${attended} of ${of} attended`],
      short: missed === 1 ? 'missed the last session' : `missed the last ${missed} sessions`,
    }),
  },
  assess({ sessions: all, day }) {
    const counted = all.filter(([known]) => known <= day).map(([, credit]) => credit > 0);
    if (counted.length < ENOUGH) return null;
    const last = counted.lastIndexOf(true);
    const missed = counted.length - 1 - last;
    const says: Missed = {
      name: missed === 0 ? 'sessions_attended' : 'sessions_missed',
      missed,
      of: counted.length,
      attended: counted.filter(Boolean).length,
    };
    const before = last - counted.lastIndexOf(false, last);
    if (missed === 1 && before >= BLIP_AFTER)
      return { value: ramp(1, 0, 2), says: { ...says, name: 'session_blip', before } };
    return { value: ramp(missed, 0, 2), says };
  },
};
