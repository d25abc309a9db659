/** Invented finished cohorts of three kinds, to try rules on: how people behave is drawn, and so is who leaves and why. */
import { DAY, HOUR } from '@/core/time/zone';
import { seeded } from '@/core/trial/bootstrap';
import { NOW } from './data';
import { iso } from './work-data';

export const KINDS = ['distance', 'blended', 'self-paced'] as const;
export type Kind = (typeof KINDS)[number];

const WEEKS = 14;
const LENGTH = WEEKS * 7;
/** All of them ended a month ago. */
const START = Math.floor((NOW - 130 * DAY) / DAY) * DAY;
const PIECES_A_WEEK = 1;

/** How somebody goes before they leave, or goes on. */
type Way = 'fades' | 'hands in less' | 'goes at once' | 'fails' | 'stays' | 'rests' | 'hurries' | 'never comes';

interface Person {
  way: Way;
  /** Visits a day, hand-ins as a share, late ones as a share, words a visit, and skill as a share of points. */
  visits: number;
  hands: number;
  late: number;
  talks: number;
  skill: number;
  /** The day they leave, and the one from which it shows; beyond the end of whoever stays. */
  leaves: number;
  shows: number;
  joins: number;
  /** Hours and days of the week they study at. */
  hour: number;
}

export interface CohortFiles {
  outline: string;
  roster: string;
  log: string;
  results: string;
  sessions: string | null;
  marks: string | null;
}

const dateOf = (day: number) => iso(START + day * DAY).slice(0, 10);

function drawPerson(random: () => number, kind: Kind): Person {
  const pick = <T>(...choices: [share: number, value: T][]): T => {
    let left = random();
    for (const [share, value] of choices) {
      left -= share;
      if (left <= 0) return value;
    }
    return choices.at(-1)![1];
  };
  const between = (low: number, high: number) => low + (high - low) * random();
  const way = pick<Way>(
    [0.07, 'fades'],
    [0.09, 'hands in less'],
    [0.04, 'goes at once'],
    [0.04, 'fails'],
    [0.03, 'never comes'],
    [0.14, 'rests'],
    [0.1, 'hurries'],
    [0.49, 'stays'],
  );
  const isLeaving = ['fades', 'hands in less', 'goes at once', 'fails'].includes(way);
  const leaves = isLeaving ? Math.floor(between(14, LENGTH - 14)) : LENGTH + 99;
  const joins = kind === 'self-paced' ? Math.floor(between(0, 21)) : 0;
  return {
    way,
    visits: between(0.18, 0.85),
    hands: between(0.72, 0.98),
    late: way === 'rests' ? between(0, 0.5) : between(0, 0.3),
    talks: kind === 'self-paced' ? between(0, 0.25) : between(0.05, 1.1),
    skill: way === 'fails' ? between(0.35, 0.55) : between(0.5, 0.95),
    leaves: Math.max(leaves, joins + 12),
    shows: leaves - (way === 'goes at once' ? 0 : between(10, 35)),
    joins,
    hour: pick([0.6, 18], [0.25, 10], [0.15, 22]),
  };
}

/** One cohort as files. */
export function makeCohort(code: string, kind: Kind, people: number, seed: number): CohortFiles {
  const random = seeded(seed);
  for (let i = 0; i < 20; i += 1) random();
  const isDated = kind !== 'self-paced';
  const outline = ['course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points'];
  const item = (id: string, title: string, what: string, required: string, due: string, points: string, week: number) =>
    outline.push(
      `${code},${code},${dateOf(0)},${dateOf(LENGTH - 1)},Week ${week + 1},${id},${title},${what},${required},${due},${points}`,
    );
  for (let week = 0; week < WEEKS; week += 1) {
    for (let page = 0; page < 3; page += 1)
      item(`${code}-P${week}-${page}`, `Page ${week}.${page}`, 'page', 'yes', '', '', week);
    item(`${code}-F${week}`, `Talk ${week}`, 'discussion', 'no', '', '', week);
    for (let n = 0; n < PIECES_A_WEEK; n += 1) {
      const due = isDated ? iso(START + (7 * week + 6) * DAY + 20 * HOUR) : '';
      item(`${code}-W${week}-${n}`, `Sheet ${week}.${n}`, 'assignment', 'yes', due, '20', week);
    }
  }
  const roster = ['learner_id,given_name,family_name,course,group,enrolled_on,status,ended_on'];
  const log = ['time,learner_id,course,item_id,action'];
  const results = ['learner_id,course,item_id,attempt,submitted_at,score,points,graded_at'];
  const marks = ['session_id,learner_id,mark'];
  for (let i = 0; i < people; i += 1) {
    const one = drawPerson(random, kind);
    const id = `${code}${i}`;
    // Half of those who leave say so, some time after.
    const said =
      one.leaves < LENGTH && random() < 0.5 ? Math.min(LENGTH - 1, one.leaves + 14 + Math.floor(14 * random())) : null;
    roster.push(
      `${id},Given${i % 31},Family${i},${code},G${i % 10},${dateOf(one.joins)},${said === null ? 'active,' : `withdrawn,${dateOf(said)}`}`,
    );
    if (one.way === 'never comes') continue;
    live(one, { id, code, kind, random, log, results, marks });
  }
  const sessions = ['course,group,session_id,title,starts_at,ends_at,mode'];
  for (let week = 0; week < WEEKS; week += 1) {
    const at = START + (7 * week + 2) * DAY + 17 * HOUR;
    sessions.push(`${code},,${code}-S${week},Week ${week},${iso(at)},${iso(at + HOUR)},online`);
  }
  const file = (lines: string[]) => `${lines.join('\n')}\n`;
  return {
    outline: file(outline),
    roster: file(roster),
    log: file(log),
    results: file(results),
    sessions: kind === 'blended' ? file(sessions) : null,
    marks: kind === 'blended' ? file(marks) : null,
  };
}

interface Writing {
  id: string;
  code: string;
  kind: Kind;
  random: () => number;
  log: string[];
  results: string[];
  marks: string[];
}

/** What somebody does in the course, day by day. */
function live(one: Person, { id, code, kind, random, log, results, marks }: Writing): void {
  const rest = one.way === 'rests' ? Math.floor(20 + 60 * random()) : LENGTH + 1;
  const restLength = 8 + Math.floor(8 * random());
  let page = 0;
  for (let day = one.joins; day < Math.min(LENGTH, one.leaves); day += 1) {
    const own = day - one.joins;
    const isResting = day >= rest && day < rest + restLength;
    // How far they are from their leaving, 0 to 1.
    const gone = day < one.shows ? 0 : (day - one.shows) / Math.max(1, one.leaves - one.shows);
    const pace = one.way === 'hurries' ? (own < 45 ? 1.6 : 0.35) : 1;
    const visits = one.visits * pace * (one.way === 'fades' ? 1 - 0.8 * gone : 1);
    const at = (hour: number) =>
      iso(START + day * DAY + ((one.hour + hour) % 24) * HOUR + Math.floor(3000 * random()) * 1000);
    if (!isResting && random() < visits) {
      const reading = 1 + Math.floor(3 * random());
      for (let n = 0; n < reading && page < WEEKS * 3; n += 1) {
        const isAhead = page >= 3 * (own / 7 + (one.way === 'hurries' ? 8 : 1));
        if (isAhead) break;
        log.push(`${at(0)},${id},${code},${code}-P${Math.floor(page / 3)}-${page % 3},opened`);
        if (!(one.way === 'hands in less' && gone > 0 && random() < 0.6)) page += 1;
      }
      log.push(`${at(0)},${id},${code},,viewed`);
      const talks = one.talks * (one.way === 'hands in less' || one.way === 'fades' ? 1 - 0.8 * gone : 1);
      if (random() < talks) log.push(`${at(1)},${id},${code},${code}-F${Math.floor(day / 7)},posted`);
    }
    const week = Math.floor(own / 7);
    if (own % 7 === 6 && week < WEEKS) {
      const hands =
        one.hands *
        (one.way === 'hands in less'
          ? 1 - 0.85 * gone
          : one.way === 'fades'
            ? 1 - 0.6 * gone
            : one.way === 'fails'
              ? 1 - 0.4 * gone
              : 1);
      if (random() < hands && !isResting) {
        const late =
          random() < one.late + (one.way === 'hands in less' ? 0.5 * gone : 0) ? 1 + 4 * random() : -2 * random();
        const submitted = START + day * DAY + 20 * HOUR + late * DAY;
        if (submitted < START + Math.min(LENGTH, one.leaves) * DAY) {
          const score = Math.max(
            0,
            Math.min(
              20,
              Math.round(20 * (one.skill - (one.way === 'fails' ? 0.25 * gone : 0) + 0.16 * (random() - 0.5))),
            ),
          );
          log.push(`${iso(submitted)},${id},${code},${code}-W${week}-0,submitted`);
          results.push(`${id},${code},${code}-W${week}-0,1,${iso(submitted)},${score},20,${iso(submitted + 4 * DAY)}`);
        }
      }
    }
    if (kind === 'blended' && day % 7 === 2) {
      const comes = 0.88 - (one.way === 'fades' ? 0.6 : one.way === 'hands in less' ? 0.35 : 0.1) * gone;
      marks.push(`${code}-S${Math.floor(day / 7)},${id},${isResting || random() > comes ? 'absent' : 'present'}`);
    }
  }
  if (kind !== 'blended') return;
  // Whoever has left is marked absent until the end.
  for (let day = Math.min(LENGTH, one.leaves); day < LENGTH; day += 1)
    if (day % 7 === 2) marks.push(`${code}-S${Math.floor(day / 7)},${id},absent`);
}
