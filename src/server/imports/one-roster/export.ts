/** Everything of a programme that OneRoster 1.2 has a place for, as an archive of its CSV files. */
import { Readable } from 'node:stream';
import { setImmediate as breathe } from 'node:timers/promises';
import { strToU8 } from 'fflate';
import { rawCsvLine } from '@/core/imports/cells';
import { ONE_ROSTER_FILES, type OneRosterFile } from '@/core/imports/one-roster/files';
import { isWork } from '@/core/work/due';
import { itemGrades } from '@/core/grades/course-grades';
import { firstHandIn } from '@/core/work/attempt';
import type { Course } from '@/core/completion/course';
import { readCourse } from '@/data/completion/course';
import { readCourseWork } from '@/data/completion/enrolled';
import { withRaw, type RawConnection } from '@/data/db';
import * as data from '@/data/imports/one-roster-rows';
import type { OneRosterCourses, OneRosterRow } from '@/data/imports/one-roster-rows';
import type { Viewer } from '@/data/scope';
import { requireLead } from '../../request/lead';
import { PackedFile, Packing } from '../../request/packing';
import type { Runtime } from '../../runtime';

/** Files of the standard's that hold nothing here. */
const ABSENT = [
  ...['classResources', 'courseResources', 'demographics', 'lineItemLearningObjectiveIds', 'lineItemScoreScales'],
  ...['resources', 'resultLearningObjectiveIds', 'resultScoreScales', 'scoreScales', 'userProfiles', 'userResources'],
];

function* manifestRows(): Generator<OneRosterRow> {
  const files = Object.keys(ONE_ROSTER_FILES).filter((file) => file !== 'manifest');
  const says: Record<string, string> = {
    'manifest.version': '1.0',
    'oneroster.version': '1.2',
    ...Object.fromEntries([
      ...files.map((file) => [`file.${file}`, 'bulk']),
      ...ABSENT.map((file) => [`file.${file}`, 'absent']),
    ]),
    'source.systemName': 'Lee Shore',
    'source.systemCode': 'lee-shore',
  };
  for (const [propertyName, value] of Object.entries(says)) yield { propertyName, value };
}

/** The points of work that has none of its own: its scores are shares of those they were given with. */
const PER_CENT = 100;
const rounded = (value: number) => Math.round(value * 1e6) / 1e6;
const iso = (at: number | null) => (at === null ? '' : new Date(at).toISOString());
const workOf = ({ items }: Course) => items.filter(({ kind, points }) => isWork(kind, points));
const categoryId = (code: string, name: string) => `${code}: ${name}`;

/**
 * The id of a piece of work in a class: its own in the first class of its course, so that it is the same one when it is read
 * back; with its course before it where another course has one of that id.
 */
type LineItemId = (code: string, itemId: string, index: number, classId: string) => string;

function openLineItemIds(raw: RawConnection): LineItemId {
  const shared = data.sharedItemIds(raw);
  return (code, itemId, index, classId) => {
    const own = shared.has(itemId) ? `${code}:${itemId}` : itemId;
    return index === 0 ? own : `${own}@${classId}`;
  };
}

function classesOf({ classes }: OneRosterCourses, courseId: number) {
  return classes.filter(({ course }) => course === courseId);
}

function* categoryRows(raw: RawConnection, { courses }: OneRosterCourses): Generator<OneRosterRow> {
  for (const { id, code } of courses)
    for (const { name, weight } of readCourse(raw, id).categories)
      yield { sourcedId: categoryId(code, name), title: name, weight };
}

function* lineItemRows(raw: RawConnection, all: OneRosterCourses): Generator<OneRosterRow> {
  const lineItemId = openLineItemIds(raw);
  for (const { id, code } of all.courses) {
    const work = workOf(readCourse(raw, id));
    for (const [index, { sourcedId }] of classesOf(all, id).entries())
      for (const { externalId, title, points, category, dueAt, opensAt } of work)
        yield {
          sourcedId: lineItemId(code, externalId, index, sourcedId),
          title,
          assignDate: iso(opensAt),
          dueDate: iso(dueAt),
          classSourcedId: sourcedId,
          categorySourcedId: category === null ? '' : categoryId(code, category),
          resultValueMin: 0,
          resultValueMax: points ?? PER_CENT,
          schoolSourcedId: 'programme',
        };
  }
}

/** Results that count, of everybody in a course. */
function* resultRows(
  raw: RawConnection,
  all: OneRosterCourses,
  courseId: number,
  now: number,
): Generator<OneRosterRow> {
  const { code } = all.courses.find(({ id }) => id === courseId)!;
  const { course, of } = readCourseWork(raw, courseId, { asOf: null, now });
  const classes = classesOf(all, courseId);
  const lineItemId = openLineItemIds(raw);
  for (const { id, learner, groupId } of data.enrolledIn(raw, courseId)) {
    const classId = all.classOf(courseId, groupId);
    const index = classes.findIndex(({ sourcedId }) => sourcedId === classId);
    for (const { item, attempts, counting, isExempt } of itemGrades(course, of(id), now)) {
      if (!isWork(item.kind, item.points)) continue;
      const handedIn = firstHandIn(attempts);
      if (counting === null && handedIn === null && !isExempt) continue;
      const scoreStatus = isExempt ? 'exempt' : counting ? 'fully graded' : 'submitted';
      yield {
        sourcedId: `${code}:${item.externalId}:${learner}`,
        lineItemSourcedId: lineItemId(code, item.externalId, index, classId),
        studentSourcedId: learner,
        scoreStatus,
        score: isExempt || !counting ? '' : rounded(counting.share * (item.points ?? PER_CENT)),
        scoreDate: iso(counting?.at ?? handedIn).slice(0, 10),
        classSourcedId: classId,
      };
    }
  }
}

/** Rows written at a time, after which the server sees to others. */
const CHUNK = 1000;

function* inChunks(rows: Iterable<OneRosterRow>, columns: readonly string[]): Generator<string> {
  let text = rawCsvLine(columns);
  let count = 0;
  for (const row of rows) {
    text += rawCsvLine(columns.map((name) => String(row[name] ?? '')));
    count += 1;
    if (count % CHUNK === 0) {
      yield text;
      text = '';
    }
  }
  if (text !== '') yield text;
}

type Rows = (raw: RawConnection, all: OneRosterCourses) => Iterable<OneRosterRow>;

const ROWS: Record<Exclude<OneRosterFile, 'results'>, Rows> = {
  manifest: manifestRows,
  academicSessions: (_, all) => data.academicSessionRows(all),
  categories: categoryRows,
  classes: (_, all) => data.classRows(all),
  courses: (_, all) => data.courseRows(all),
  enrollments: data.enrollmentRows,
  lineItems: lineItemRows,
  orgs: data.orgRows,
  roles: data.roleRows,
  users: data.userRows,
};

/**
 * The archive, as it is packed: `manifest`, `orgs`, `users`, `roles`, `academicSessions`, `courses`, `classes`, `enrollments`,
 * `categories`, `lineItems` and `results`. Demographics are never in it.
 *
 * @throws NotFound for anybody but a lead: it holds everybody
 */
export function oneRosterFile(runtime: Pick<Runtime, 'db' | 'clock'>, viewer: Viewer): Readable {
  requireLead(viewer);
  return Readable.from(pack(runtime));
}

async function* pack({ db, clock }: Pick<Runtime, 'db' | 'clock'>): AsyncGenerator<Uint8Array> {
  const packing = new Packing();
  const now = clock.now();
  try {
    const all = await withRaw(db, data.readOneRosterCourses);
    for (const [name, rows] of Object.entries(ROWS) as [Exclude<OneRosterFile, 'results'>, Rows][]) {
      const file = new PackedFile(`${name}.csv`);
      packing.add(file);
      const chunks = await withRaw(db, (raw) => [...inChunks(rows(raw, all), ONE_ROSTER_FILES[name])]);
      yield* await push(packing, file, chunks);
      file.push(new Uint8Array(0), true);
      await breathe();
    }
    const file = new PackedFile('results.csv');
    packing.add(file);
    yield* await push(packing, file, [rawCsvLine(ONE_ROSTER_FILES.results)]);
    for (const { id } of all.courses) {
      const rows = await withRaw(db, (raw) => [...inChunks(resultRows(raw, all, id, now), ONE_ROSTER_FILES.results)]);
      // The heading stands at the top of the file, not of each course.
      const [first, ...rest] = rows;
      yield* await push(packing, file, [first.slice(first.indexOf('\n') + 1), ...rest]);
      await breathe();
    }
    file.push(new Uint8Array(0), true);
    yield* packing.end();
  } finally {
    packing.stop();
  }
}

async function push(packing: Packing, file: PackedFile, chunks: readonly string[]): Promise<Uint8Array[]> {
  const packed: Uint8Array[] = [];
  for (const chunk of chunks) {
    file.push(strToU8(chunk));
    packed.push(...packing.take());
    await file.caughtUp();
  }
  return packed;
}
