/** The six courses of Saltholm Skills Trust with their items. All made up. */
import { STAGES, type ItemKind, type Stage } from '@/core/courses/item-kinds';
import { DAY, dateOfDay, startOfDay } from '@/core/time/zone';

export interface DemoItem {
  id: string;
  title: string;
  kind: ItemKind;
  /** 0 for the course's first week. */
  week: number;
  unit: string;
  opensDay: number;
  dueDay: number | null;
  required: boolean;
  points: number | null;
  category: string | null;
  changedDay: number | null;
  /** A unit's check at its beginning or end. */
  stage: Stage | null;
}

export interface DemoCourse {
  code: string;
  title: string;
  weeks: number;
  startDay: number;
  groups: readonly string[];
  source: string;
  /** False where the platform sends no progress of videos. */
  videoProgress: boolean;
  /** First and last day of a break. */
  rest: readonly [number, number] | null;
  items: DemoItem[];
}

interface Plan {
  code: string;
  title: string;
  weeks: number;
  groups: readonly string[];
  source: string;
  topics: readonly string[];
  /** Began this many weeks before this week. */
  begun: number;
  /** Week in which the course rests, from 0. */
  restWeek?: number;
  videoProgress?: boolean;
}

const PLANS: readonly Plan[] = [
  {
    code: 'DRY',
    title: 'Drystone Walling Foundations',
    weeks: 12,
    groups: ['Tue', 'Thu'],
    source: 'campus north',
    begun: 9,
    topics: [
      'Stone and ground',
      'Setting out',
      'Footings',
      'Courses and batter',
      'Throughstones',
      'Hearting',
      'Cheek ends',
      'Cope',
      'Gaps and repair',
      'Stiles',
      'Retaining walls',
      'A wall of your own',
    ],
  },
  {
    code: 'HAT',
    title: 'Hatchery Technician',
    weeks: 14,
    groups: ['A', 'B'],
    source: 'campus north',
    begun: 9,
    restWeek: 5,
    topics: [
      'Water',
      'Tank log',
      'Salinity',
      'Broodstock',
      'Spawning',
      'Larvae',
      'Algae',
      'Feeding',
      'Grading',
      'Biosecurity',
      'Settlement',
      'Transport',
      'Records',
      'A season planned',
    ],
  },
  {
    code: 'SBE',
    title: 'Small-Boat Electrics',
    weeks: 12,
    groups: ['Tue', 'Thu'],
    source: 'campus north',
    begun: 8,
    topics: [
      'Volts and amps',
      'Batteries',
      'Charging',
      'Cable and fuse',
      'Bonding',
      'Bilge pumps',
      'Lights',
      'Alternators',
      'Shore power',
      'Instruments',
      'Fault finding',
      'A boat rewired',
    ],
  },
  {
    code: 'CPR',
    title: 'Coast Path Ranger',
    weeks: 12,
    groups: ['A', 'B'],
    source: 'campus south',
    begun: 9,
    topics: [
      'The path',
      'Tides and weather',
      'Surfaces',
      'Steps',
      'Drainage',
      'Gates',
      'Birds',
      'Visitors',
      'First response',
      'Erosion',
      'Access',
      'A stretch surveyed',
    ],
  },
  {
    code: 'NET',
    title: 'Net and Rope Work',
    weeks: 12,
    groups: ['A', 'B'],
    source: 'campus south',
    begun: 8,
    restWeek: 5,
    topics: [
      'Fibres',
      'Knots',
      'Bends',
      'Splices',
      'Whipping',
      'Mesh',
      'Mending',
      'Hanging',
      'Pots',
      'Moorings',
      'Wear',
      'A net made',
    ],
  },
  {
    code: 'TTU',
    title: 'Tidal Turbine Upkeep',
    weeks: 16,
    groups: ['A', 'B'],
    source: 'campus south',
    begun: 9,
    videoProgress: false,
    topics: [
      'The stream',
      'Blades',
      'Bearings',
      'Seals',
      'Gearbox',
      'Generator',
      'Cables',
      'Control',
      'Corrosion',
      'Lifting',
      'Dive support',
      'Weather windows',
      'Logs',
      'Faults',
      'Spares',
      'An upkeep plan',
    ],
  },
];

type Shape = [kind: ItemKind, title: (topic: string) => string, due: boolean, required: boolean, points: number | null];

/** What a week consists of. */
const WEEK: readonly Shape[] = [
  ['page', (topic) => `${topic}: read first`, false, true, null],
  ['video', (topic) => `${topic}: film`, false, true, null],
  ['file', (topic) => `${topic}: work sheet`, false, false, null],
  ['quiz', (topic) => `${topic}: quiz`, true, true, 20],
  ['discussion', (topic) => `${topic}: talk it over`, true, true, null],
  ['page', (topic) => `${topic}: going further`, false, false, null],
];

/** The courses as they stand on `today`: this week's Monday is the anchor. */
export function demoCourses(today: number): DemoCourse[] {
  const monday = today - ((((today + 3) % 7) + 7) % 7);
  return PLANS.map((plan) => {
    const startDay = monday - plan.begun * 7;
    const items = Array.from({ length: plan.weeks }, (_, week) => weekItems(plan, startDay, week)).flat();
    const rest =
      plan.restWeek === undefined ? null : ([startDay + plan.restWeek * 7, startDay + plan.restWeek * 7 + 6] as const);
    const { code, title, weeks, groups, source, videoProgress = true } = plan;
    return { code, title, weeks, startDay, groups, source, videoProgress, rest, items };
  });
}

function weekItems({ code, topics }: Plan, startDay: number, week: number): DemoItem[] {
  const opensDay = startDay + week * 7;
  const shapes = [...WEEK];
  if (week % 2 === 1) shapes.push(['assignment', (topic) => `${topic}: assignment`, true, true, 100]);
  const number = String(week + 1).padStart(2, '0');
  const live: DemoItem = {
    id: `${code}-${number}-S`,
    title: `${topics[week]}: live session`,
    kind: 'session',
    week,
    unit: `Week ${week + 1}: ${topics[week]}`,
    opensDay,
    dueDay: null,
    required: true,
    points: null,
    category: null,
    changedDay: null,
    stage: null,
  };
  const items = shapes.map(([kind, title, due, required, points], index): DemoItem => ({
    id: `${code}-${number}-${index + 1}`,
    title: title(topics[week]),
    kind,
    week,
    unit: `Week ${week + 1}: ${topics[week]}`,
    opensDay,
    dueDay: due ? opensDay + (kind === 'assignment' ? 10 : 6) : null,
    required,
    points,
    category: kind === 'quiz' ? 'Quizzes' : kind === 'assignment' ? 'Assignments' : null,
    changedDay: week === 1 && index === 0 ? opensDay + 9 : null,
    stage: null,
  }));
  return [...items, live, ...(CHECKED_WEEKS.includes(week) ? STAGES.map((stage) => check(live, stage)) : [])];
}

/** Weeks whose unit has a check at its beginning and at its end. */
const CHECKED_WEEKS = [1, 4];

function check(live: DemoItem, stage: Stage): DemoItem {
  const topic = live.title.replace(': live session', '');
  return {
    ...live,
    id: live.id.replace(/S$/, stage === 'before' ? 'B' : 'E'),
    title: `${topic}: what I know ${stage === 'before' ? 'before' : 'after'}`,
    kind: 'quiz',
    required: false,
    points: 10,
    category: null,
    stage,
  };
}

const WEIGHTS: Record<string, string> = { Quizzes: '40', Assignments: '60' };

/** Courses that were held last year, too: two of them, each ended. */
const HELD_BEFORE = ['DRY', 'SBE'];

/** Last year's courses: a code and a title of their own, one of them without live sessions. */
export function lastYearsCourses(today: number): DemoCourse[] {
  const year = dateOfDay(today).slice(0, 4);
  const before = String(Number(year) - 1);
  return demoCourses(today - 52 * 7)
    .filter(({ code }) => HELD_BEFORE.includes(code))
    .map((course) => {
      const code = `${course.code}${before.slice(2)}`;
      const items = course.items
        .filter(({ kind, stage }) => stage === null && (kind !== 'session' || course.code === 'SBE'))
        .map((item) => ({ ...item, id: item.id.replace(course.code, code), changedDay: null }));
      return { ...course, code, title: `${course.title} ${before}`, source: 'archive', items };
    });
}

/** The outline file's rows, heading first. */
export function outlineRows(courses: readonly DemoCourse[], zone: string): string[][] {
  const at = (day: number, ms = 0) => new Date(startOfDay(day, zone) + ms).toISOString();
  const heading =
    'course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,opens_at,due_at,points,category,weight,changed_at,done_when,url,stage,pass_mark';
  const rows = courses.flatMap((course) =>
    course.items.map((item) => [
      course.code,
      course.title,
      dateOfDay(course.startDay),
      dateOfDay(course.startDay + course.weeks * 7 - 1),
      item.unit,
      item.id,
      item.title,
      item.kind,
      item.required ? 'yes' : 'no',
      // A session has its times in the timetable, for each group.
      item.kind === 'session' ? '' : at(item.opensDay, 6 * 3_600_000),
      item.dueDay === null ? '' : at(item.dueDay + 1, -60_000),
      item.points === null ? '' : String(item.points),
      item.category ?? '',
      item.category ? WEIGHTS[item.category] : '',
      item.changedDay === null ? '' : at(item.changedDay, DAY / 2),
      item.kind === 'quiz' && item.stage === null ? 'handed_in;score>=50%' : '',
      `https://campus.example/courses/${course.code}/${item.id}`,
      item.stage ?? '',
      '50',
    ]),
  );
  return [heading.split(','), ...rows];
}
