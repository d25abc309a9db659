/** How a learner behaves: not drawn at random for each row, but lived day by day. */
import { weekday } from '@/core/time/zone';
import type { Random } from './random';

export const BEHAVIOURS = [
  'steady',
  'weekend_only',
  'night_shift',
  'front_loader',
  'slow_fader',
  'sudden_stop',
  'late_starter',
  'never_started',
  'stop_and_return',
  'session_only',
  'click_through',
] as const;
export type Behaviour = (typeof BEHAVIOURS)[number];

/** A learner's fixed traits, drawn once. */
export interface Traits {
  behaviour: Behaviour;
  /** How likely a usual day is an active one. */
  diligence: number;
  /** Usual hour of the day to begin, in the programme's zone. */
  hour: number;
  /** Day of the course on which something changes: a stop, a return, a late start. */
  turn: number;
  back: number;
  /** Weekday of the live session. */
  sessionDay: number;
}

export function drawTraits(random: Random, behaviour: Behaviour, daysSoFar: number): Traits {
  const turn =
    behaviour === 'late_starter'
      ? random.int(12, 26)
      : behaviour === 'slow_fader'
        ? random.int(14, 28)
        : daysSoFar - random.int(5, 24);
  return {
    behaviour,
    diligence: 0.5 + random.next() * 0.35,
    hour: behaviour === 'night_shift' ? random.pick([21, 22, 23]) : random.pick([7, 12, 17, 18, 19, 20]),
    turn,
    back: daysSoFar - random.int(0, 4),
    sessionDay: random.pick([1, 3]),
  };
}

/** How likely the learner is to be there on a day, `since` days after the course began. */
export function presence(traits: Traits, day: number, since: number): number {
  const { behaviour, diligence, turn, back, sessionDay } = traits;
  const isWeekend = weekday(day) >= 5;
  const usual = isWeekend ? diligence * 0.35 : diligence;
  switch (behaviour) {
    case 'weekend_only':
      return isWeekend ? 0.88 : 0.04;
    case 'front_loader':
      return since < 21 ? Math.min(0.97, diligence * 1.5) : usual * 0.75;
    case 'slow_fader':
      return since < turn ? usual : usual * Math.max(0.03, 1 - (since - turn) / 34);
    case 'sudden_stop':
      return since < turn ? usual : 0;
    case 'late_starter':
      return since < turn ? 0 : Math.min(0.95, usual * 1.2);
    case 'never_started':
      return 0;
    case 'stop_and_return':
      return since >= turn - 6 && since < back ? 0 : usual;
    case 'session_only':
      return weekday(day) === sessionDay ? 0.8 : 0.02;
    case 'steady':
    case 'night_shift':
    case 'click_through':
      return usual;
  }
}

/** Seconds spent before the next event. Whoever clicks through does not stay. */
export function dwell(random: Random, traits: Traits): number {
  if (traits.behaviour === 'click_through') return random.int(2, 9);
  return random.chance(0.12) ? random.int(300, 1500) : random.int(15, 260);
}
