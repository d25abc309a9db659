/** Settling whom rows are about that nobody was known for: once, for all files. */
import { randomUUID } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import { rawCsvLine } from '@/core/imports/cells';
import { partsOfName } from '@/core/imports/foreign/person-cells';
import type { Plan } from '@/core/imports/foreign/plan';
import { dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { rawTransaction, withRaw } from '@/data/db';
import { addRun, findRun } from '@/data/imports/import-runs';
import {
  makeLearner,
  nameInWords,
  removeWaiting,
  waitingPeople,
  waitingRowsOf,
  type WaitingPerson,
} from '@/data/imports/waiting';
import type { Candidate } from '@/core/sessions/match';
import { isEnrolled } from '@/data/people/roster';
import { candidatesOf, keepAlias } from '@/data/sessions/presence';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { incomingPath } from './run';

/** How many names are shown at once, and of how many others in a course each may be chosen. */
const SHOWN = 30;
const OTHERS = 300;

/** Everybody whom rows wait for; leads alone. */
export async function waitingForNames(
  { db }: Runtime,
  viewer: Viewer,
): Promise<(WaitingPerson & { others: Candidate[] })[]> {
  requireLead(viewer);
  return withRaw(db, (raw) => {
    const people = waitingPeople(raw, SHOWN);
    const inCourse = new Map(
      [...new Set(people.map(({ courseId }) => courseId))].map((id) => [id, candidatesOf(raw, id)]),
    );
    return people.map((person) => {
      const likely = new Set(person.likely.map(({ id }) => id));
      const others = inCourse.get(person.courseId)!.filter(({ id }) => !likely.has(id));
      return { ...person, others: others.sort((a, b) => a.name.localeCompare(b.name)).slice(0, OTHERS) };
    });
  });
}

/**
 * Says who somebody is: a learner of the course, a new one, or nobody. It is remembered, and the rows that waited are taken.
 *
 * @param who a learner's record, `new`, or `nobody`
 * @throws NotFound, InvalidInput
 */
export async function settleWaiting(
  runtime: Runtime,
  viewer: Viewer,
  courseId: number,
  folded: string,
  who: number | 'new' | 'nobody',
): Promise<void> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const waiting = await withRaw(db, (raw) => waitingRowsOf(raw, courseId, folded));
  if (waiting.size === 0) throw new NotFound('Nobody of that name');
  const [person] = (await withRaw(db, (raw) => waitingPeople(raw, 10_000))).filter(
    (one) => one.courseId === courseId && one.folded === folded,
  );
  if (typeof who === 'number') {
    if (!(await isEnrolled(db, who, courseId)))
      throw new InvalidInput([{ field: 'learner', message: 'is not in this course' }]);
  }
  const [firstRun] = waiting.keys();
  await rawTransaction(db, (raw) => {
    const words = nameInWords(person.person);
    const made =
      who === 'new'
        ? makeLearner(raw, {
            courseId,
            name: { ...partsOfName(words), whole: words },
            day: dayOf(now, zone),
            runId: firstRun,
          })
        : null;
    const learnerId = who === 'nobody' ? null : (made ?? (who as number));
    keepAlias(raw, { courseId, person: folded, learnerId, staffId: viewer.staffId, at: now });
  });
  if (who !== 'nobody')
    for (const [runId, rows] of waiting)
      await takeAgain(
        runtime,
        viewer,
        runId,
        rows.map(({ cells }) => cells),
        person.person,
      );
  await rawTransaction(db, (raw) => removeWaiting(raw, courseId, folded));
  await addAudit(db, {
    at: now,
    staff_id: viewer.staffId,
    what: 'settled a name',
    subject: `${person.person}, ${person.course}`,
  });
}

/** Puts rows that waited in the queue, to be read as the file that they came with. */
async function takeAgain(
  runtime: Runtime,
  viewer: Viewer,
  runId: number,
  rows: string[][],
  person: string,
): Promise<void> {
  const run = await findRun(runtime.db, runId);
  if (!run?.plan) return;
  const plan: Plan = JSON.parse(run.plan);
  const text = [plan.heading, ...rows].map(rawCsvLine).join('');
  const name = randomUUID();
  await writeFile(incomingPath(runtime, { path: name }), text);
  const { kind, source, timezone, file_name, session, part } = run;
  await addRun(runtime.db, {
    ...{ kind, source, timezone, session, part, mapping: null },
    plan: JSON.stringify({ ...plan, delimiter: ',', bodyFrom: 1 }),
    file_name: `${file_name}: rows of ${person}`,
    path: name,
    size: Buffer.byteLength(text),
    created_at: runtime.clock.now(),
    staff_id: viewer.staffId || null,
  });
}
