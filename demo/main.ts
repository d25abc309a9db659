/** Makes the demo's data: files in our own formats, taken in by the real importer. */
import { createReadStream } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { rawCsvLine } from '@/core/imports/cells';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { findRun } from '@/data/imports/import-runs';
import { addAccount } from '@/server/staff/accounts';
import { DEMO_FILE, type DemoSignIns } from '@/server/staff/demo-sign-ins';
import { enterBreak } from '@/server/courses/calendar';
import { lookForGaps, nameGap } from '@/server/feed/feed';
import { workOnNext } from '@/server/imports/queue';
import { receiveFile } from '@/server/imports/receive';
import { makeOwner } from '@/server/owner';
import { readAllPast, recalculate } from '@/server/drift/recalculate';
import { openRuntime, type Runtime } from '@/server/runtime';
import { readSettings } from '@/server/settings';
import { makeCredential } from '@/server/feed/sources';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { askForTrial, workOnTrial } from '@/server/trial/runs';
import { demoCourses, lastYearsCourses, outlineRows } from './courses';
import { demoLastYear, lastResultRows, lastRosterRows } from './last-year';
import { demoLog, logRows, outage } from './log';
import { writeEarlierContacts } from './contacts';
import { writeEarlierMessages } from './messages';
import { demoSessions, markRows, presenceFileRows, sessionRows } from './sessions';
import { STAFF, platformsCourses, providersPeople, demoLearners, rosterRows, staffRows } from './people';
import { seeded } from './random';
import { demoPosts, postRows, surveyRows } from './writings';
import { demoWork, extensionRows, responseRows, resultRows } from './work';

const SEED = 1632;
const PASSWORD = 'lee-shore-demo';
const CAMPUSES = ['campus north', 'campus south'];
const MISSING_THIS_WEEK = ['L20462', 'L20648', 'L20837'];

async function bringIn(
  runtime: Runtime,
  folder: string,
  kind: string,
  source: string,
  rows: readonly string[][],
): Promise<void> {
  const name = `${kind}-${source.replace(' ', '-')}.csv`;
  const path = join(folder, name);
  await writeFile(path, rows.map(rawCsvLine).join(''));
  const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind, source, file_name: name }, createReadStream(path));
  await workOnNext(runtime, makeOwner());
  const run = await findRun(runtime.db, id);
  if (run?.state !== 'done' || run.rejected > 0)
    throw new Error(`The demo's ${name} was not taken: ${run?.error ?? `${run?.rejected} rejected`}`);
}

const runtime = await openRuntime(readSettings(process.env));
const { clock, zone, settings } = runtime;
const now = clock.now();
const today = dayOf(now, zone);
const random = seeded(SEED);
const courses = demoCourses(today);
const learners = demoLearners(random, courses, today);
const log = demoLog(random, courses, learners, now, today, zone);

// Its own beginning, so that the log stays the same whatever sessions there are.
const sessions = demoSessions(seeded(SEED + 1), courses, learners, log, now, zone);

const work = demoWork(seeded(SEED + 2), courses, learners, log, now, zone);

const before = demoLastYear(seeded(SEED + 3), lastYearsCourses(today), zone);

const folder = join(settings.dataDir, 'demo-files');
await mkdir(folder, { recursive: true });
await bringIn(runtime, folder, 'outline', 'programme', outlineRows(courses, zone));
await bringIn(runtime, folder, 'roster', 'programme', rosterRows(learners));
// This week's file lacks three whom the programme still has.
const thisWeek = rosterRows(learners).filter((row) => !MISSING_THIS_WEEK.includes(row[0]));
await bringIn(runtime, folder, 'roster', 'this week', thisWeek);
await bringIn(runtime, folder, 'staff', 'programme', staffRows());
await bringIn(runtime, folder, 'sessions', 'programme', sessionRows(sessions));
await bringIn(runtime, folder, 'presence', 'meetings', presenceFileRows(sessions));
await bringIn(runtime, folder, 'marks', 'programme', markRows(sessions));
for (const source of CAMPUSES) {
  await bringIn(runtime, folder, 'access-log', source, logRows(log.filter((row) => row.source === source)));
}
await bringIn(runtime, folder, 'results', 'programme', resultRows(work));
await bringIn(runtime, folder, 'responses', 'programme', responseRows(work));
await bringIn(runtime, folder, 'extensions', 'programme', extensionRows(work));
const writings = seeded(SEED + 4);
await bringIn(runtime, folder, 'posts', 'programme', postRows(demoPosts(writings, courses, log)));
const answers = surveyRows(writings, courses, learners, today, zone);
await bringIn(runtime, folder, 'survey-answers', 'programme', answers);
// Last year's files, of two courses that have ended.
const archive = (kind: string, rows: readonly string[][]) => bringIn(runtime, folder, kind, 'archive', rows);
await archive('outline', outlineRows(before.courses, zone));
await archive('roster', lastRosterRows(before));
await archive('sessions', sessionRows(before));
await archive('marks', markRows(before));
await archive('access-log', logRows(before.log));
await archive('results', lastResultRows(before));
for (const { code, rest } of courses) {
  if (!rest) continue;
  const [from, to] = rest.map(dateOfDay);
  await enterBreak(runtime, SYSTEM_VIEWER, { course: code, from, to, reason: 'fishing week' });
}
const [from, to] = outage(today);
await nameGap(runtime, SYSTEM_VIEWER, { source: 'campus north', from: dateOfDay(from), to: dateOfDay(to + 1) });
await recalculate(runtime);
await readAllPast(runtime);

await lookForGaps(runtime);
// The course platforms of the stand-ins go on where the files end, each as its own source.
const platforms = [];
for (const source of CAMPUSES) {
  const { key, secret } = await makeCredential(runtime, SYSTEM_VIEWER, { source });
  const own = courses.filter((course) => course.source === source);
  const people = learners.flatMap(({ email, enrolments }) =>
    email === ''
      ? []
      : enrolments
          .filter(({ status, course }) => status === 'active' && own.includes(course))
          .slice(0, 1)
          .map(({ course }) => ({ mail: email, course: course.code })),
  );
  const items = own.flatMap(({ code, items }) =>
    items
      .filter(({ opensDay, kind }) => opensDay <= today && kind !== 'session')
      .map(({ id, title, kind }) => ({ id, course: code, title, kind })),
  );
  platforms.push({ key, secret, people, items });
}
await writeFile(join(settings.dataDir, 'campus.json'), JSON.stringify(platforms));
await writeFile(join(settings.dataDir, 'meeting.json'), JSON.stringify(sessions.meeting));
await writeFile(join(settings.dataDir, 'provider.json'), JSON.stringify(providersPeople()));
await writeFile(
  join(settings.dataDir, 'lti.json'),
  JSON.stringify(
    platformsCourses(
      learners,
      courses.filter(({ code }) => code === 'NET' || code === 'TTU'),
    ),
  ),
);

const signIns: DemoSignIns = { password: PASSWORD, accounts: [] };
for (const { name, email, role, says } of STAFF) {
  if (says === null) continue;
  await addAccount(runtime, { given_name: name[0], family_name: name[1], email, role, password: PASSWORD });
  signIns.accounts.push({ email, says });
}
const written = await writeEarlierMessages(
  runtime,
  STAFF[0].email,
  learners.map((learner) => learner.id),
);
await writeEarlierContacts(
  runtime,
  { mentor: STAFF[0].email, instructor: STAFF[1].email, lead: STAFF[3].email },
  learners,
);
// What the Watch would have found last year, so that nobody has to wait for the first look.
await askForTrial(runtime, SYSTEM_VIEWER, 'trial', { rule: 'watch', people: '5' });
await workOnTrial(runtime, makeOwner());
await writeFile(join(settings.dataDir, DEMO_FILE), JSON.stringify(signIns, null, 2));
console.log(
  `Demo of ${dateOfDay(today)}: ${learners.length} learners, ${log.length} events, ${courses.length} courses, ${written} earlier messages`,
);
await runtime.db.destroy();
