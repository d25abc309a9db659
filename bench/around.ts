/**
 * Around a learner, on a large institution: their crew, a word among a million posts, whether being in touch works over 20,000
 * contacts, a caseload by its rule, good news and organisations; each beside what it reads.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DAY, HOUR, dayOf } from '@/core/time/zone';
import { withRaw, type RawConnection } from '@/data/db';
import { wordsToMatch } from '@/data/posts/posts';
import { doesItWork } from '@/server/contact/does-it-work';
import { goodNews } from '@/server/good-news/good-news-list';
import { makeCaseload } from '@/server/people/caseloads';
import { crewOfLearner } from '@/server/people/crew';
import { learnerList } from '@/server/people/learner-list';
import { organisations } from '@/server/people/organisations-list';
import { posts } from '@/server/posts/posts-list';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW } from './data';
import { percentile, repeat, report, timed } from './measure';
import { bringIn, fill, learnerOf, openBench } from './work-data';

const LARGE = { courses: 20, learners: 1000, group: 50, items: 10 };
const POSTS = 1_000_000;
const CONTACTS = 20_000;
const DAYS = 70;
const TIMES = 15;

/** Words of posts: the later one is in the list, the rarer. */
const WORDS = Array.from({ length: 400 }, (_, n) => `word${n}`);
const COMMON = WORDS[3];
const RARE = WORDS[399];

/** Numbers from 0 up to a bound that are the same every time. */
function drawer(): (bound: number) => number {
  let state = 20_261;
  return (bound) => {
    state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
    return Math.floor((state / 0x7fffffff) * bound) % bound;
  };
}

/** Puts posts, days there, readings and contacts in as they would have come. */
function put(raw: RawConnection): void {
  const draw = drawer();
  const all = raw.prepare('SELECT e.id, e.learner_id, e.course_id FROM enrolment e ORDER BY e.id').raw().all() as [
    number,
    number,
    number,
  ][];
  const today = dayOf(NOW, 'Europe/Dublin');
  const text = () => Array.from({ length: 12 }, () => WORDS[Math.min(draw(400), draw(400))]).join(' ');
  raw.transaction(() => {
    const post = raw.prepare(
      'INSERT INTO post (learner_id, course_id, at, text, words, external_id) VALUES (?, ?, ?, ?, 12, ?)',
    );
    for (let n = 0; n < POSTS; n += 1) {
      const [, learner, course] = all[draw(all.length)];
      post.run(learner, course, NOW - draw(DAYS) * DAY - draw(24) * HOUR, text(), `p${n}`);
    }
    const there = raw.prepare(
      'INSERT OR IGNORE INTO learner_day (learner_id, course_id, day, events, looked, worked, talked, other, ms, first, last) VALUES (?, ?, ?, 3, 3, 0, 0, 0, 60000, ?, ?)',
    );
    const reading = raw.prepare(
      'INSERT OR REPLACE INTO drift_reading (enrolment_id, day, score, band, reasons, days_away, has_come) VALUES (?, ?, ?, ?, \'{"reasons":[]}\', 0, 1)',
    );
    for (const [id, learner, course] of all) {
      let quiet = draw(5);
      for (let ago = DAYS; ago >= 0; ago -= 1) {
        const day = today - ago;
        if (draw(quiet > 6 ? 12 : 3) === 0) {
          quiet = 0;
          const at = NOW - ago * DAY;
          there.run(learner, course, day, at, at + HOUR);
        } else quiet += 1;
        const score = Math.min(99, quiet * 6 + draw(10));
        reading.run(id, day, score, score < 40 ? 0 : score < 70 ? 1 : 2);
      }
    }
    const { id: staff } = raw.prepare('SELECT id FROM staff LIMIT 1').get() as { id: number };
    const call = raw.prepare(
      "INSERT INTO call (learner_id, staff_id, at, outcome, remark) VALUES (?, ?, ?, 'spoke', '')",
    );
    for (let n = 0; n < CONTACTS; n += 1)
      call.run(all[draw(all.length)][1], staff, NOW - draw(DAYS - 10) * DAY - draw(10) * HOUR);
  })();
  raw.exec('ANALYZE');
}

const staffRows = [
  'staff_id,given_name,family_name,email,role,scope_kind,scope',
  'S0,Ada,Lead,lead@bench.example,lead,all,',
];
for (let c = 0; c < LARGE.courses; c += 1)
  staffRows.push(`S${c + 1},Bea,Teacher${c},t${c}@bench.example,instructor,course,C${c}`);

const median = (spent: readonly number[]) => percentile(spent, 0.5);

async function benchCrew(runtime: Runtime): Promise<void> {
  const learner = learnerOf(3, 7);
  const crew = median(await repeat(TIMES, () => crewOfLearner(runtime, SYSTEM_VIEWER, learner)));
  const bare = median(
    await repeat(TIMES, () =>
      runtime.db.raw(
        `SELECT DISTINCT staff.* FROM learner l JOIN enrolment e ON e.learner_id = l.id
         JOIN staff_scope s ON s.course_id = e.course_id OR s.group_id = e.group_id OR s.learner_id = l.id
         JOIN staff ON staff.id = s.staff_id WHERE l.external_id = ?`,
        [learner],
      ),
    ),
  );
  report('crew of a learner to a bare query', crew / bare, 2, `${crew.toFixed(2)} to ${bare.toFixed(2)} ms`);
}

async function benchPosts(runtime: Runtime): Promise<void> {
  for (const word of [RARE, COMMON]) {
    const page = median(await repeat(TIMES, () => posts(runtime, SYSTEM_VIEWER, { q: word, limit: '50' })));
    let found = 0;
    const bare = median(
      await repeat(TIMES, () =>
        withRaw(runtime.db, (raw) => {
          raw
            .prepare(
              `SELECT post.* FROM post_words JOIN post ON post.id = post_words.rowid WHERE post_words MATCH ?
               ORDER BY post.at DESC, post.id DESC LIMIT 50`,
            )
            .all(wordsToMatch(word));
          found = raw
            .prepare('SELECT count(*) FROM post_words WHERE post_words MATCH ?')
            .pluck()
            .get(wordsToMatch(word)) as number;
        }),
      ),
    );
    const says = `${page.toFixed(1)} to ${bare.toFixed(1)} ms, ${found} of ${POSTS} posts`;
    report('first page of a word to a bare search', page / bare, 3, says);
  }
}

async function benchDoesItWork(runtime: Runtime): Promise<void> {
  const all = await timed(() => doesItWork(runtime, SYSTEM_VIEWER, { by: 'channel' }));
  const read = await timed(() =>
    withRaw(runtime.db, (raw) => {
      let rows = 0;
      for (const sql of [
        'SELECT enrolment_id, day, score, band FROM drift_reading',
        'SELECT learner_id, course_id, day, first, last FROM learner_day',
        'SELECT learner_id, at, outcome FROM call',
        'SELECT learner_id, submitted_at FROM attempt',
      ])
        for (const row of raw.prepare(sql).raw().iterate()) rows += (row as unknown[]).length > 0 ? 1 : 0;
      return rows;
    }),
  );
  const says = `${(all.ms / 1000).toFixed(1)} to ${(read.ms / 1000).toFixed(1)} s, ${all.value.all?.contacts} contacts, ${read.value} rows`;
  report('does it work to reading its rows', all.ms / read.ms, 4, says);
}

async function benchLists(runtime: Runtime): Promise<void> {
  await makeCaseload(runtime, SYSTEM_VIEWER, { name: 'Quiet', rule: { course: 'C3', quiet: '7' } });
  const rule = median(
    await repeat(TIMES, () => learnerList(runtime, SYSTEM_VIEWER, { course: 'C3', quiet: '7', limit: '50' })),
  );
  const caseload = median(
    await repeat(TIMES, () => learnerList(runtime, SYSTEM_VIEWER, { caseload: 'Quiet', limit: '50' })),
  );
  report(
    'list of a caseload to the list by its rule',
    caseload / rule,
    3,
    `${caseload.toFixed(1)} to ${rule.toFixed(1)} ms`,
  );
  for (const [name, work] of [
    ['organisations', () => organisations(runtime, SYSTEM_VIEWER, {})],
    ['good news of a course', () => goodNews(runtime, SYSTEM_VIEWER, { course: 'C3' })],
    ['good news of everybody', () => goodNews(runtime, SYSTEM_VIEWER, {})],
  ] as const)
    console.log(`     ${name}: ${median(await repeat(3, work)).toFixed(0)} ms`);
}

export async function benchAround(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await openBench(dir);
  try {
    await fill(runtime, LARGE);
    await bringIn(runtime, 'staff', `${staffRows.join('\n')}\n`);
    await withRaw(runtime.db, put);
    await benchCrew(runtime);
    await benchPosts(runtime);
    await benchDoesItWork(runtime);
    await benchLists(runtime);
  } finally {
    await runtime.db.destroy();
    rmSync(dir, { recursive: true, force: true });
  }
}
