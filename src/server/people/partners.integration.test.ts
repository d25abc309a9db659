/**
 * What a partner's contact meets, on institutions made at random: every list, its file, and every other call is asked as each
 * coordinator and held against a plain account of what was brought in. Set PARTNER_INSTITUTIONS for more of them.
 */
import { text } from 'node:stream/consumers';
import { expect, it } from 'vitest';
import { seeded } from '@/core/trial/bootstrap';
import type { Viewer } from '@/data/scope';
import { rightNow } from '../access/live/now';
import { LiveHub } from '../access/live/hub';
import { liveStream } from '../access/live/stream';
import { makeFlare } from '../contact/flares';
import { visits } from '../item-use/item-use';
import { whoDid } from '../item-use/who-did';
import { recalculate } from '../drift/recalculate';
import { LISTS } from '../lists';
import { mondayLetter } from '../reports/monday-letter';
import { makeReport } from '../reports/kept';
import { columnsShown } from '../reports/columns';
import { rowsAnswer } from '../reports/rows-answer';
import { fileHere, figuresOf, type List } from '../request/list';
import { NotFound, type Values } from '../request/input';
import { openDriftView } from '../request/view';
import { attendanceAnswer } from '../sessions/session-files';
import { makeFeed, readFeed } from '../sessions/feeds';
import { surveyAnswer } from '../surveys/surveys-list';
import { bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { caseloadAnswers, makeCaseload } from './caseloads';
import { crewOfLearner } from './crew';
import { find } from './find';
import { learnerDetail } from './learner-detail';

const INSTITUTIONS = Number(process.env.PARTNER_INSTITUTIONS ?? 12);

interface Person {
  id: string;
  given: string;
  family: string;
  organisation: string;
  courses: { course: string; group: string; status: string }[];
}

interface Institution {
  people: Person[];
  organisations: string[];
  courses: string[];
  files: [kind: string, rows: string[]][];
  /** Events of the log, by who did them. */
  events: { who: string; course: string }[];
  posts: string[];
}

/** Words that stand nowhere but with one person or organisation: whoever reads one has met them. */
function invent(seed: number): Institution {
  const random = seeded(seed * 7919 + 13);
  const int = (from: number, to: number) => from + Math.floor(random() * (to - from + 1));
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
  const names = Array.from({ length: int(2, 4) }, (_, n) => `Orgq${seed}x${n}`);
  const courses = Array.from({ length: int(1, 3) }, (_, n) => `C${n}`);
  const people = Array.from({ length: int(4, 14) }, (_, n): Person => {
    // Some organisation may have one person alone; some people belong to none.
    const organisation = random() < 0.15 ? '' : pick(names);
    const own = courses.filter(() => random() < 0.7);
    return {
      id: `Idq${seed}x${n}`,
      given: `Givenq${n}`,
      family: `Familyq${seed}x${n}`,
      organisation,
      courses: (own.length > 0 ? own : [courses[0]]).map((course) => ({
        course,
        group: pick(['A', 'B']),
        status: random() < 0.15 ? 'withdrawn' : 'active',
      })),
    };
  });
  const organisations = names.filter((name) => people.some(({ organisation }) => organisation === name));
  const outline = courses.flatMap((course) => [
    `${course},Course ${course},2026-09-28,2026-12-21,Unit 1,${course}-p,Page,page,yes,,`,
    `${course},Course ${course},2026-09-28,2026-12-21,Unit 1,${course}-q,Quiz,quiz,yes,2026-11-10T10:00:00Z,10`,
    `${course},Course ${course},2026-09-28,2026-12-21,Unit 2,${course}-d,Talk,discussion,no,,`,
  ]);
  const enrolled = people.flatMap((person) => person.courses.map((one) => ({ ...one, person })));
  const at = () =>
    `2026-${pick(['10', '11'])}-${String(int(1, 20)).padStart(2, '0')}T${String(int(8, 20)).padStart(2, '0')}:00:00Z`;
  const some = (share: number) => enrolled.filter(() => random() < share);
  const log = Array.from({ length: 3 }, () => some(0.8)).flat();
  const events = log.map(({ person, course }) => ({ who: person.id, course }));
  const sessions = courses.map(
    (course) => `${course},,${course}-s,Session,2026-11-12T10:00:00Z,2026-11-12T11:00:00Z,online`,
  );
  const posted = some(0.5);
  return {
    people,
    organisations,
    courses,
    events,
    posts: posted.map(({ person }) => person.id),
    files: [
      ['outline', ['course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points', ...outline]],
      [
        'roster',
        [
          'learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on,status,ended_on',
          ...enrolled.map(
            ({ person: { id, given, family, organisation }, course, group, status }) =>
              `${id},${given},${family},${family}@mailq.example,,${organisation},${course},${group},2026-09-28,${status},${status === 'active' ? '' : '2026-11-20'}`,
          ),
        ],
      ],
      [
        'staff',
        [
          'staff_id,given_name,family_name,email,role,scope_kind,scope',
          'S1,Hesper,Vane,lead@staff.example,lead,all,',
          ...organisations.map(
            (name, n) => `P${n},Bryn,Ostler,partner${n}@staff.example,coordinator,organisation,${name}`,
          ),
          ...courses.map(
            (course) => `T${course},Jory,Kestle,teacher-${course}@staff.example,instructor,course,${course}`,
          ),
        ],
      ],
      ['sessions', ['course,group,session_id,title,starts_at,ends_at,mode', ...sessions]],
      [
        'marks',
        [
          'session_id,learner_id,mark',
          ...some(0.8).map(({ person, course }) => `${course}-s,${person.id},${pick(['present', 'late', 'absent'])}`),
        ],
      ],
      [
        'access-log',
        logOf(log.map(({ person, course }) => `${at()},${person.id},${course},${course}-p,opened`))
          .trimEnd()
          .split('\n'),
      ],
      [
        'results',
        [
          'learner_id,course,item_id,submitted_at,score,points,graded_at,feedback',
          ...some(0.6).map(
            ({ person, course }) =>
              `${person.id},${course},${course}-q,${at()},${int(0, 10)},10,2026-11-20T10:00:00Z,Feedbackq ${person.family}`,
          ),
        ],
      ],
      [
        'responses',
        [
          'learner_id,course,item_id,question_id,question,answer,score,points',
          ...some(0.6).map(
            ({ person, course }) => `${person.id},${course},${course}-q,q1,What?,Answerq ${person.family},1,1`,
          ),
        ],
      ],
      [
        'contacts',
        [
          'learner_id,name,relation,email,may_receive',
          ...people.map(({ id, family }) => `${id},Motherq ${family},family,m-${family}@mailq.example,yes`),
        ],
      ],
      [
        'posts',
        [
          'time,learner_id,course,item_id,text,post_id',
          ...posted.map(
            ({ person, course }, n) => `${at()},${person.id},${course},${course}-d,Textq ${person.family},post${n}`,
          ),
        ],
      ],
      [
        'survey-answers',
        [
          'survey,asked_at,learner_id,course,question,kind,answer',
          ...some(0.7).map(
            ({ person, course }) => `Half way,2026-11-02T10:00:00Z,${person.id},${course},Pace?,scale,${int(1, 5)}`,
          ),
          ...courses.map((course) => `Half way,2026-11-02T10:00:00Z,,${course},Words?,text,Nobodyq`),
        ],
      ],
    ],
  };
}

/**
 * Everything that a coordinator is answered, as text, by what was asked.
 *
 * @param theirs the courses that somebody of theirs is in
 * @param first the staff number of the institution's first coordinator
 */
async function everything(
  runtime: TestRuntime,
  viewer: Viewer,
  all: Institution,
  theirs: readonly string[],
  first: number,
): Promise<Map<string, string>> {
  const said = new Map<string, string>();
  let turn = viewer.staffId;
  const ask = async (what: string, work: () => Promise<unknown>) => {
    try {
      const answer = await work();
      said.set(what, typeof answer === 'string' ? answer : (JSON.stringify(answer) ?? ''));
    } catch (error) {
      // What is not theirs is not there; anything else is a fault.
      if (!(error instanceof NotFound)) throw error;
      said.set(what, `not found: ${error.message}`);
    }
  };
  const learners = await runtime.db('learner').orderBy('id').select('id', 'external_id');
  for (const list of LISTS as unknown as List<unknown>[]) {
    const needs: Record<string, Values[]> = {
      questions: all.courses.map((course) => ({ course })),
      'group-grades': all.courses.map((course) => ({ course })),
      history: learners.map(({ external_id }) => ({ learner: external_id, course: all.courses[0] })),
      'learner-items': learners.map(({ external_id }) => ({ learner: external_id, course: all.courses[0] })),
    };
    const asked = needs[list.name] ?? [
      {},
      // One course and one organisation, in turn: over the institutions each is asked for by somebody.
      { course: all.courses[turn % all.courses.length] },
      { organisation: all.organisations[turn % all.organisations.length] },
    ];
    turn += 1;
    for (const values of asked)
      await ask(`${list.name} ${JSON.stringify(values)}`, async () => {
        const read = await list.read(runtime, viewer, values);
        const beside = (await list.beside?.(runtime, viewer, values)) ?? {};
        return { rows: read.rows.map((row) => figuresOf(list, row, read)), total: read.total, ...beside };
      });
    // Its file of one coordinator of each institution: it is what the list reads.
    if (!list.file && viewer.staffId === first)
      await ask(`${list.name} as a file`, async () => {
        const file = await fileHere(list as never, { runtime, viewer }, asked[0] as Record<string, string>, 'csv');
        return text(file as never);
      });
  }
  for (const { external_id: learner } of learners) {
    await ask(`learner ${learner}`, () => learnerDetail(runtime, viewer, learner));
    await ask(`crew ${learner}`, () => crewOfLearner(runtime, viewer, learner));
    await ask(`visits ${learner}`, async () => (await visits(runtime, viewer, { learner })).rows);
  }
  const view = await openDriftView(runtime, viewer);
  for (const q of ['q', 'Family', ...all.organisations]) await ask(`find ${q}`, () => find(runtime, view, q));
  for (const course of all.courses) {
    await ask(`who did ${course}`, () => whoDid(runtime, viewer, { item: `${course}-p`, course }));
    await ask(`attendance ${course}`, async () => (await attendanceAnswer(runtime, viewer, `${course}-s`, {})).text());
  }
  await ask('survey', () => surveyAnswer(runtime, viewer, 'Half way', { by: 'organisation' }));
  await ask('caseloads', () => caseloadAnswers(runtime, viewer));
  await ask('letter', () => mondayLetter(runtime, viewer));
  await ask('now', () => rightNow(runtime, view, {}));
  await ask('calendar', async () =>
    readFeed(runtime, /calendar\/(.+)\.ics/.exec(await makeFeed(runtime, viewer, null))![1]),
  );
  for (const per of [PER[viewer.staffId % PER.length], PER[(viewer.staffId + 2) % PER.length]])
    await ask(`report per ${per}`, async () => {
      const id = await makeReport(runtime, viewer, {
        name: `All ${per}`,
        per,
        columns: columnsFor(per),
        items: theirs.map((course) => `${course}-q`),
        for: 'staff',
      });
      return (await rowsAnswer(runtime, viewer, String(id), { format: 'csv' })).text();
    });
  await ask('stream', async () => {
    const stream = liveStream(
      new LiveHub(runtime.db, (error) => {
        throw error;
      }),
      view,
      0,
      { longest: 15 },
    );
    return text(stream as never);
  });
  return said;
}

const PER = ['learner', 'enrolment', 'item', 'session'] as const;

/** Every column that a report with such rows may have. */
function columnsFor(per: string): string[] {
  return columnsShown()
    .filter((column) => column.per === per || column.per === 'learner')
    .map(({ name }) => name);
}

const number = (text: string | undefined, name: string): unknown => JSON.parse(text!)[name];

it(`meets nobody of another organisation, in ${INSTITUTIONS} institutions`, async () => {
  for (let seed = 1; seed <= INSTITUTIONS; seed += 1) {
    const all = invent(seed);
    const runtime = await testRuntime();
    try {
      for (const [kind, rows] of all.files) {
        const run = await bringIn(runtime, kind, [...rows, ''].join('\n'));
        expect([kind, run.state, run.rejected], `institution ${seed}`).toEqual([kind, 'done', 0]);
      }
      await runtime.db('session').update({ roll_at: 1 });
      await recalculate(runtime);
      const lead = await viewerByEmail(runtime, 'lead@staff.example');
      await makeCaseload(runtime, lead, { name: 'Clubq', rule: { q: 'Family' } });
      const called = all.people.find(({ courses }) => courses.some(({ status }) => status === 'active'));
      if (called) await makeFlare(runtime, lead, { learner_id: called.id, reason: 'Reasonq' });
      const first = (await viewerByEmail(runtime, 'partner0@staff.example')).staffId;
      for (const [n, organisation] of all.organisations.entries()) {
        const viewer = await viewerByEmail(runtime, `partner${n}@staff.example`);
        const mine = all.people.filter((person) => person.organisation === organisation);
        const foreign = all.people.filter((person) => person.organisation !== organisation);
        const never = [
          ...foreign.flatMap(({ family }) => [family]),
          ...all.organisations.filter((name) => name !== organisation),
          ...['Nobodyq', 'Textq', 'Clubq', 'Reasonq'],
        ];
        const theirs = all.courses.filter((course) =>
          mine.some((one) => one.courses.some((own) => own.course === course)),
        );
        const said = await everything(runtime, viewer, all, theirs, first);
        for (const [what, answer] of said) {
          // What is asked for is no news to whoever asks: an id in the question may be named in the refusal.
          const met = answer.startsWith('not found')
            ? []
            : never.filter((word) => new RegExp(`${word}\\b`).test(answer));
          expect(met, `institution ${seed}, ${organisation}: ${what} says ${answer.slice(0, 300)}`).toEqual([]);
          const ids = foreign.filter(({ id }) => !what.includes(id) && new RegExp(`"${id}"|\\b${id},`).test(answer));
          expect(ids, `institution ${seed}, ${organisation}: ${what}`).toEqual([]);
        }
        const active = mine.filter(({ courses }) => courses.some(({ status }) => status === 'active'));
        const ofMine = <T extends { who: string }>(rows: readonly T[]) =>
          rows.filter(({ who }) => mine.some(({ id }) => id === who));
        const at = `institution ${seed}, ${organisation}`;
        expect(number(said.get('learners {}'), 'total'), at).toBe(active.length);
        expect(number(said.get('access-log {}'), 'total'), at).toBe(ofMine(all.events).length);
        expect(number(said.get('posts {}'), 'total'), at).toBe(
          all.posts.filter((id) => mine.some((one) => one.id === id)).length,
        );
        expect(number(said.get('organisations {}'), 'rows'), at).toMatchObject(
          mine.length === 0 ? [] : [{ organisation, people: mine.length }],
        );
        const courses = number(said.get('courses {}'), 'rows') as { course: string; enrolled: number }[];
        for (const { course, enrolled } of courses)
          expect([course, enrolled], at).toEqual([
            course,
            mine.filter((one) => one.courses.some((own) => own.course === course && own.status === 'active')).length,
          ]);
        const use = number(said.get('item-use {}'), 'rows') as { item_id: string; base: number }[];
        for (const { item_id, base } of use)
          expect([item_id, base], at).toEqual([
            item_id,
            mine.filter((one) =>
              one.courses.some((own) => item_id.startsWith(`${own.course}-`) && own.status === 'active'),
            ).length,
          ]);
        for (const other of all.organisations.filter((name) => name !== organisation))
          for (const list of ['learners', 'organisations'])
            expect(said.get(`${list} ${JSON.stringify({ organisation: other })}`) ?? 'not found', at).toMatch(
              /^not found/,
            );
      }
    } finally {
      await runtime.close();
    }
  }
}, 900_000);
