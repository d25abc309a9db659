/** The term's work: attempts, scores and feedback, answers to questions, and extensions. It follows what the log has. */
import { DAY, HOUR, MINUTE, startOfDay } from '@/core/time/zone';
import type { Behaviour } from './behaviour';
import type { DemoCourse, DemoItem } from './courses';
import type { LogRow } from './log';
import { STAFF, type DemoLearner } from './people';
import type { Random } from './random';

interface DemoAttempt {
  learner: string;
  course: string;
  item: DemoItem;
  number: number;
  started: number | null;
  submitted: number | null;
  score: number | null;
  graded: number | null;
  grader: string;
  feedback: string;
}

interface DemoAnswer {
  learner: string;
  course: string;
  item: string;
  attempt: number;
  question: number;
  answer: string;
  right: string;
  score: number;
  at: number;
}

interface DemoExtension {
  learner: string;
  course: string;
  item: string;
  due: number | null;
  excused: boolean;
  reason: string;
}

export interface DemoWork {
  attempts: DemoAttempt[];
  answers: DemoAnswer[];
  extensions: DemoExtension[];
}

/** How well people of a behaviour do on the whole, and how that moves in a week, as shares of the points. */
const ABILITY: Partial<Record<Behaviour, readonly [level: number, aWeek: number]>> = {
  steady: [0.76, 0.005],
  front_loader: [0.84, -0.004],
  slow_fader: [0.72, -0.045],
  sudden_stop: [0.7, 0],
  late_starter: [0.64, 0.02],
  click_through: [0.46, 0],
  night_shift: [0.72, 0],
  weekend_only: [0.75, 0],
};

const QUESTIONS = 10;
const CHOICES = ['A', 'B', 'C', 'D'] as const;
/** Attempts at a quiz at most. */
const MOST_TRIES = 3;
/** Two hand-ins of an item within this time are one. */
const SAME_SITTING = 4 * HOUR;

const FEEDBACK = [
  '<p>Well set out. The second drawing is the one to keep.</p>',
  '<p>Good work on the whole. <strong>Check the figures in part 2</strong>: they do not add up.</p><p>The work sheet at <a href="https://campus.example/help/figures">figures and units</a> shows how.</p>',
  '<p>This answers another question than the one asked. Read the task again, and hand in part 3 anew.</p>',
  '<ul><li>Clear photographs</li><li>Say what the ground was like</li><li>Name your sources</li></ul>',
  'Thank you, this is careful work. See you on Thursday.',
];

const REASONS = [
  'ill for two weeks',
  'called out at sea',
  'night shifts until the end of the month',
  'moving house',
  'a new job began',
];

const share = (value: number) => Math.min(1, Math.max(0.05, value));

/** A question of an item: the same for everybody. */
function keyOf(item: DemoItem, question: number): { right: string; easy: number } {
  let hash = question * 31;
  for (const letter of item.id) hash = (hash * 33 + letter.charCodeAt(0)) % 1009;
  return { right: CHOICES[hash % 4], easy: ((hash * 7) % 40) / 100 - 0.2 };
}

function graderOf(course: DemoCourse): string {
  return (
    STAFF.find(({ role, scopes }) => role === 'instructor' && scopes.some(([, code]) => code === course.code))?.id ?? ''
  );
}

/** Hand-ins of an item that the log has, each with when it was begun. */
function sittingsOf(rows: readonly LogRow[]): { started: number; submitted: number | null }[] {
  const sittings: { started: number; submitted: number | null }[] = [];
  for (const { at, action } of rows) {
    const last = sittings.at(-1);
    const isOpen = last !== undefined && at - (last.submitted ?? last.started) < SAME_SITTING;
    if (action === 'started' || action === 'saved') {
      if (!isOpen) sittings.push({ started: at, submitted: null });
    } else if (action === 'submitted') {
      if (isOpen) last.submitted ??= at;
      else sittings.push({ started: at - 20 * MINUTE, submitted: at });
    }
  }
  return sittings;
}

export function demoWork(
  random: Random,
  courses: readonly DemoCourse[],
  learners: readonly DemoLearner[],
  log: readonly LogRow[],
  now: number,
  zone: string,
): DemoWork {
  const work: DemoWork = { attempts: [], answers: [], extensions: [] };
  const byLearnerItem = new Map<string, LogRow[]>();
  for (const row of log) {
    const key = `${row.who}/${row.item}`;
    byLearnerItem.set(key, [...(byLearnerItem.get(key) ?? []), row]);
  }
  for (const learner of learners) {
    const talent = (random.next() - 0.5) * 0.24;
    for (const { course } of learner.enrolments) {
      const [level, aWeek] = ABILITY[learner.behaviour] ?? [0.7, 0];
      for (const item of course.items) {
        if (item.points === null) continue;
        const ability = level + talent + aWeek * item.week;
        const rows = byLearnerItem.get(`${learner.id}/${item.id}`) ?? [];
        if (item.stage !== null) addCheck(random, work, learner, course, item, ability, now, zone);
        else if (item.kind === 'quiz') addQuiz(random, work, learner.id, course.code, item, sittingsOf(rows), ability);
        else addAssignment(random, work, learner.id, course, item, sittingsOf(rows), ability, now);
      }
    }
  }
  addExtensions(random, work, learners, zone);
  return work;
}

/** A quiz: its questions answered one by one, graded at once. */
function addQuiz(
  random: Random,
  work: DemoWork,
  learner: string,
  course: string,
  item: DemoItem,
  sittings: readonly { started: number; submitted: number | null }[],
  ability: number,
): void {
  sittings.slice(0, MOST_TRIES).forEach(({ started, submitted }, index) => {
    const number = index + 1;
    let right = 0;
    for (let question = 1; question <= QUESTIONS; question += 1) {
      const { right: key, easy } = keyOf(item, question);
      const isRight = random.chance(share(ability + easy + index * 0.08));
      if (isRight) right += 1;
      if (submitted === null && question > 4) continue;
      const answer = isRight ? key : random.pick(CHOICES.filter((choice) => choice !== key));
      work.answers.push({
        learner,
        course,
        item: item.id,
        attempt: number,
        question,
        answer,
        right: key,
        score: isRight ? item.points! / QUESTIONS : 0,
        at: started + question * 40_000,
      });
    }
    const score = submitted === null ? null : (right * item.points!) / QUESTIONS;
    work.attempts.push({
      learner,
      course,
      item,
      number,
      started,
      submitted,
      score,
      graded: submitted,
      grader: '',
      feedback: '',
    });
  });
}

/** An assignment: graded by the instructor some days later, and not at all yet where it came lately. */
function addAssignment(
  random: Random,
  work: DemoWork,
  learner: string,
  course: DemoCourse,
  item: DemoItem,
  sittings: readonly { started: number; submitted: number | null }[],
  ability: number,
  now: number,
): void {
  const first = sittings.find(({ submitted }) => submitted !== null) ?? sittings[0];
  if (!first) return;
  const { started, submitted } = first;
  const graded = submitted === null ? null : submitted + random.int(2, 9) * DAY;
  const isGraded = graded !== null && graded < now && !random.chance(0.04);
  const score = isGraded ? Math.round(100 * share(ability + (random.next() - 0.5) * 0.22)) : null;
  work.attempts.push({
    learner,
    course: course.code,
    item,
    number: 1,
    started,
    submitted,
    score,
    graded: isGraded ? graded : null,
    grader: isGraded ? graderOf(course) : '',
    feedback: isGraded && random.chance(0.6) ? random.pick(FEEDBACK) : '',
  });
}

/** A unit's check at its beginning or its end, taken by most. */
function addCheck(
  random: Random,
  work: DemoWork,
  learner: DemoLearner,
  course: DemoCourse,
  item: DemoItem,
  ability: number,
  now: number,
  zone: string,
): void {
  const at = startOfDay(item.opensDay + (item.stage === 'after' ? 6 : 1), zone) + random.int(9, 21) * HOUR;
  if (at > now || ['never_started', 'session_only'].includes(learner.behaviour) || random.chance(0.2)) return;
  const known = share(ability - (item.stage === 'before' ? 0.32 : 0.02) + (random.next() - 0.5) * 0.2);
  work.attempts.push({
    learner: learner.id,
    course: course.code,
    item,
    number: 1,
    started: at - 10 * MINUTE,
    submitted: at,
    score: Math.round(known * item.points!),
    graded: at,
    grader: '',
    feedback: '',
  });
}

/** Some were given a later date, some were excused. */
function addExtensions(random: Random, work: DemoWork, learners: readonly DemoLearner[], zone: string): void {
  const chosen = learners.filter(({ behaviour }) =>
    ['late_starter', 'stop_and_return', 'slow_fader', 'night_shift'].includes(behaviour),
  );
  for (const learner of chosen) {
    if (!random.chance(0.4)) continue;
    const { course, enrolledDay } = learner.enrolments[0];
    const due = course.items.filter(
      (item) => item.dueDay !== null && item.points !== null && item.dueDay > enrolledDay + 7,
    );
    const item = due[random.int(0, Math.min(due.length - 1, 14))];
    if (!item) continue;
    const excused = random.chance(0.25);
    work.extensions.push({
      learner: learner.id,
      course: course.code,
      item: item.id,
      due: excused ? null : startOfDay(item.dueDay! + random.pick([7, 10, 14]) + 1, zone) - MINUTE,
      excused,
      reason: random.pick(REASONS),
    });
  }
}

const iso = (at: number | null) => (at === null ? '' : new Date(at).toISOString().replace('.000Z', 'Z'));

export function resultRows({ attempts }: DemoWork): string[][] {
  const heading = [
    'learner_id',
    'course',
    'item_id',
    'attempt',
    'started_at',
    'submitted_at',
    'score',
    'points',
    'graded_at',
    'grader',
    'feedback',
  ];
  const rows = attempts.map((one) => [
    one.learner,
    one.course,
    one.item.id,
    String(one.number),
    iso(one.started),
    iso(one.submitted),
    one.score === null ? '' : String(one.score),
    String(one.item.points),
    iso(one.graded),
    one.grader,
    one.feedback,
  ]);
  return [heading, ...rows];
}

export function responseRows({ answers }: DemoWork): string[][] {
  const heading = [
    'learner_id',
    'course',
    'item_id',
    'attempt',
    'question_id',
    'question',
    'answer',
    'right_answer',
    'score',
    'points',
    'answered_at',
  ];
  const rows = answers.map((one) => [
    one.learner,
    one.course,
    one.item,
    String(one.attempt),
    `${one.item}-q${one.question}`,
    `Question ${one.question}`,
    one.answer,
    one.right,
    String(one.score),
    '2',
    iso(one.at),
  ]);
  return [heading, ...rows];
}

export function extensionRows({ extensions }: DemoWork): string[][] {
  const heading = ['learner_id', 'course', 'item_id', 'due_at', 'excused', 'reason'];
  return [
    heading,
    ...extensions.map((one) => [
      one.learner,
      one.course,
      one.item,
      iso(one.due),
      one.excused ? 'yes' : 'no',
      one.reason,
    ]),
  ];
}
