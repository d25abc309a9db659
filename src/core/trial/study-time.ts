/** When somebody studied, as far as a trial asks whether it is fair to them. */
import type { VisitTime, WorkingHours } from '../access/when';
import { DAY, MINUTE, offsetAt, weekday } from '../time/zone';

const STUDY_TIMES = [
  'mostly in working hours',
  'mostly in the evening',
  'mostly at weekends',
  'mostly at night',
  'at other times',
] as const;
export type StudyTime = (typeof STUDY_TIMES)[number];

/** Night is from 22:00 to 06:00; the evening lies between the working hours and the night, on any working day. */
const NIGHT = { from: 22 * 60, to: 6 * 60 } as const;
/** More than this share of the visits is most of them. */
const MOSTLY = 0.5;

/**
 * When somebody mostly came, by the clock of a zone: each visit counts once, whatever its length. Null without a visit.
 *
 * @example studyTime([{ start: saturday, ms: 0 }], USUAL_WORKING_HOURS, 'UTC') // 'mostly at weekends'
 */
export function studyTime(
  visits: readonly Pick<VisitTime, 'start'>[],
  { days, from, to }: WorkingHours,
  zone: string,
): StudyTime | null {
  if (visits.length === 0) return null;
  const counts: Record<StudyTime, number> = {
    'mostly in working hours': 0,
    'mostly in the evening': 0,
    'mostly at weekends': 0,
    'mostly at night': 0,
    'at other times': 0,
  };
  for (const { start } of visits) {
    const wall = start + offsetAt(start, zone);
    const day = weekday(Math.floor(wall / DAY));
    const minute = (wall % DAY) / MINUTE;
    const isWork = days.includes(day) && minute >= from && minute < to;
    if (isWork) counts['mostly in working hours'] += 1;
    else if (day >= 5) counts['mostly at weekends'] += 1;
    else if (minute >= NIGHT.from || minute < NIGHT.to) counts['mostly at night'] += 1;
    else if (days.includes(day) && minute >= to) counts['mostly in the evening'] += 1;
    else counts['at other times'] += 1;
  }
  return STUDY_TIMES.find((time) => counts[time] / visits.length > MOSTLY) ?? 'at other times';
}

/** A visit shorter than this is one on the way, in ms. */
const SHORT = 10 * MINUTE;

type VisitLength = 'mostly short visits' | 'mostly longer visits';

/**
 * How long somebody mostly stayed: half of the visits or more, each counted once, under ten minutes are short ones. Null without a visit.
 *
 * @example visitLength([{ ms: 4 * MINUTE }, { ms: 70 * MINUTE }, { ms: 5 * MINUTE }]) // 'mostly short visits'
 */
export function visitLength(visits: readonly Pick<VisitTime, 'ms'>[]): VisitLength | null {
  if (visits.length === 0) return null;
  const short = visits.filter(({ ms }) => ms < SHORT).length;
  return short / visits.length >= MOSTLY ? 'mostly short visits' : 'mostly longer visits';
}
