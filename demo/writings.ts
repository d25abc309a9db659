/** What learners wrote: posts where the log says that they posted or replied, and answers to a survey half way. All made up. */
import { HOUR, startOfDay } from '@/core/time/zone';
import type { DemoCourse } from './courses';
import type { LogRow } from './log';
import type { DemoLearner } from './people';
import type { Random } from './random';

const BEGINNINGS = [
  'I tried this on Saturday and the second row would not hold.',
  'Does anybody else find that the film goes too fast for this?',
  'We do it another way at work, but the reason given here convinced me.',
  'What do you do when it rains all week? We lost two days.',
  'My foreman says the old tables are wrong. Which ones do you use?',
  'I wrote down what I measured each day; the picture is in my log.',
  'Is the quiz about the whole unit or only the last part of it?',
];
const REPLIES = [
  'Same here. I slowed it down and took notes.',
  'Thank you, that helped me a lot.',
  'I would start with the larger ones and see what is left.',
  'Ask in the session on Tuesday, it was explained well last time.',
  'We use the new tables. The difference is small.',
  'Good question. I do not know either.',
];

export interface DemoPost {
  id: string;
  at: number;
  who: string;
  course: string;
  item: string;
  text: string;
  replyTo: string | null;
}

/** A post for each line of the log that says so. */
export function demoPosts(random: Random, courses: readonly DemoCourse[], log: readonly LogRow[]): DemoPost[] {
  const titles = new Map(courses.flatMap(({ items }) => items.map(({ id, title }) => [id, title] as const)));
  const earlier = new Map<string, DemoPost[]>();
  const posts: DemoPost[] = [];
  for (const { at, who, course, item, action } of log) {
    if (action !== 'posted' && action !== 'replied') continue;
    const before = earlier.get(item) ?? [];
    const answered = before.slice(-6).filter((post) => post.who !== who);
    const isReply = action === 'replied' && answered.length > 0;
    const topic = (titles.get(item) ?? '').replace(/:.*$/, '').toLowerCase();
    const post: DemoPost = {
      id: `post-${posts.length + 1}`,
      at,
      who,
      course,
      item,
      text: isReply ? random.pick(REPLIES) : `${random.pick(BEGINNINGS)} (${topic})`,
      replyTo: isReply ? random.pick(answered).id : null,
    };
    earlier.set(item, [...before, post]);
    posts.push(post);
  }
  return posts;
}

export function postRows(posts: readonly DemoPost[]): string[][] {
  return [
    ['time', 'learner_id', 'course', 'item_id', 'text', 'post_id', 'in_reply_to'],
    ...posts.map((post) => [
      new Date(post.at).toISOString(),
      post.who,
      post.course,
      post.item,
      post.text,
      post.id,
      post.replyTo ?? '',
    ]),
  ];
}

const WHEN = ['In the evening', 'At weekends', 'At work', 'Early in the morning'];
const WORDS = [
  'More time in the workshop, please.',
  'The films are good; some subtitles are missing.',
  'I would like a list of tools before the course begins.',
  'Nothing. It is the best course I have been on.',
  'The sessions are too late for those with small children.',
];

/** Answers to a survey in the sixth week of each course: two in three answer, one in five of them without a name. */
export function surveyRows(
  random: Random,
  courses: readonly DemoCourse[],
  learners: readonly DemoLearner[],
  today: number,
  zone: string,
): string[][] {
  const rows = [['survey', 'asked_at', 'learner_id', 'course', 'question', 'kind', 'answer']];
  for (const course of courses) {
    const day = course.startDay + 5 * 7;
    if (day > today - 1) continue;
    const at = new Date(startOfDay(day, zone) + 9 * HOUR).toISOString();
    for (const learner of learners) {
      const enrolment = learner.enrolments.find((one) => one.course === course);
      if (!enrolment || enrolment.status !== 'active' || !random.chance(0.66)) continue;
      const who = random.chance(0.2) ? '' : learner.id;
      const add = (question: string, kind: string, answer: string) =>
        rows.push(['Half way', at, who, course.code, question, kind, answer]);
      add('How is the pace? (1 too slow, 5 too fast)', 'scale', String(random.int(2, 5)));
      const first = random.pick(WHEN);
      add('When do you study?', 'choice', first);
      const second = random.pick(WHEN);
      if (who !== '' && second !== first && random.chance(0.3)) add('When do you study?', 'choice', second);
      if (random.chance(0.35)) add('What would help you?', 'text', random.pick(WORDS));
    }
  }
  return rows;
}
