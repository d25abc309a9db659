/** An archive of OneRoster as files of ours: outline, roster, staff, results and who is excused. */
import { once } from 'node:events';
import { createWriteStream, type WriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { rawCsvLine } from '@/core/imports/cells';
import { CsvReader } from '@/core/imports/csv-reader';
import { guessItemKind } from '@/core/imports/foreign/item-kind';
import { foldWord } from '@/core/imports/foreign/words';
import { NotSuchAFile } from '@/core/imports/heading';
import { coursesOfClasses, type OwnCourse } from '@/core/imports/one-roster/courses';
import { enrolmentOf } from '@/core/imports/one-roster/enrolment';
import { OLDER_COLUMNS, ONE_ROSTER_FILES, type OneRosterFile } from '@/core/imports/one-roster/files';
import { sayCount } from '@/core/time/words';
import { OneRosterDatabase, type LineItemRow } from '@/data/imports/one-roster-file';
import type { FoundTable } from '../containers/tables';
import type { Archive } from '../containers/zip';

const READ = (Object.keys(ONE_ROSTER_FILES) as OneRosterFile[]).filter((file) => file !== 'manifest');

/** A file of ours, being written. */
class OwnFile {
  rows = 0;
  readonly path = randomUUID();
  private readonly stream: WriteStream;

  constructor(
    folder: string,
    readonly name: string,
    heading: readonly string[],
  ) {
    this.stream = createWriteStream(join(folder, this.path));
    this.stream.write(rawCsvLine(heading));
  }

  async write(cells: readonly string[]): Promise<void> {
    this.rows += 1;
    if (!this.stream.write(rawCsvLine(cells))) await once(this.stream, 'drain');
  }

  async end(): Promise<void> {
    this.stream.end();
    await once(this.stream, 'finish');
  }
}

async function load(db: OneRosterDatabase, archive: Archive, within: string): Promise<void> {
  for (const file of READ) {
    const columns = [...ONE_ROSTER_FILES[file], ...(OLDER_COLUMNS[file] ?? [])];
    db.make(file, columns);
    const entry = archive.entries.get(`${within}${file}.csv`);
    if (!entry) continue;
    const reader = new CsvReader(',');
    const decoder = new TextDecoder();
    let places: number[] | null = null;
    const take = (rows: ReturnType<CsvReader['push']>) => {
      if (rows.length === 0) return;
      let body = rows;
      if (places === null) {
        const heading = rows[0].cells.map((cell) => cell.trim().toLowerCase());
        places = columns.map((name) => heading.indexOf(name.toLowerCase()));
        if (places[0] < 0) throw new NotSuchAFile(`${file}.csv of this OneRoster archive has no column sourcedId.`);
        body = rows.slice(1);
      }
      const found = places;
      db.add(
        file,
        columns,
        body.map(({ cells }) => found.map((place) => (place < 0 ? '' : (cells[place] ?? '').trim()))),
      );
    };
    for await (const chunk of await archive.stream(entry)) take(reader.push(decoder.decode(chunk, { stream: true })));
    take([...reader.push(decoder.decode()), ...reader.finish()]);
  }
  db.index();
}

function coursesIn(db: OneRosterDatabase): Map<string, OwnCourse> {
  const terms = db.terms();
  return coursesOfClasses(
    db.classes().map(({ termIds, ...one }) => {
      const ids = termIds
        .split(',')
        .map((id) => id.trim())
        .filter(Boolean);
      const days = ids.flatMap((id) => terms.get(id) ?? []);
      const begins =
        days
          .map((term) => term.begins)
          .filter(Boolean)
          .sort()[0] ?? '';
      const ends =
        days
          .map((term) => term.ends)
          .filter(Boolean)
          .sort()
          .at(-1) ?? '';
      return { ...one, terms: ids, begins, ends };
    }),
  );
}

/** Roles of whoever teaches a class; nobody else of the staff is taken, since what they may see is nobody's to guess. */
const STAFF_ROLE: Readonly<Record<string, string>> = { teacher: 'instructor', aide: 'mentor' };

/** A day's end, where only the day is known. */
const atEndOf = (text: string) => (/^\d{4}-\d{2}-\d{2}$/.test(text) ? `${text}T23:59:00` : text);

interface Items {
  /** The item of ours that each line item is. */
  ids: Map<string, string>;
  line: Map<string, Pick<LineItemRow, 'min' | 'max' | 'classId'>>;
}

/** Line items as an outline: the same work, given to several groups of a course, is one item. */
async function writeOutline(db: OneRosterDatabase, courses: Map<string, OwnCourse>, file: OwnFile): Promise<Items> {
  const items: Items = { ids: new Map(), line: new Map() };
  const byWork = new Map<string, string>();
  for (const one of db.lineItems()) {
    const course = courses.get(one.classId);
    if (!course) continue;
    const { id, title, assignDate, dueDate, min, max, category, weight } = one;
    items.line.set(id, { min, max, classId: one.classId });
    const key = JSON.stringify([course.code, foldWord(title), category, max]);
    const known = byWork.get(key);
    const isSameClass = known !== undefined && items.line.get(known)?.classId === one.classId;
    items.ids.set(id, known !== undefined && !isSameClass ? known : id);
    if (known !== undefined && !isSameClass) continue;
    byWork.set(key, id);
    const points = pointsOf(min, max);
    const kind = guessItemKind(title, [], true);
    const cells = [course.code, course.title, course.begins, course.ends, id, title, kind, 'yes'];
    await file.write([...cells, assignDate, atEndOf(dueDate), points, category, category === '' ? '' : weight]);
  }
  return items;
}

/** Points to be had, above the least there is. */
function pointsOf(min: string, max: string): string {
  const [from, to] = [Number(min || 0), Number(max)];
  return max === '' || !Number.isFinite(to - from) || to <= from ? '' : String(to - from);
}

async function writePeople(
  db: OneRosterDatabase,
  courses: Map<string, OwnCourse>,
  [roster, staff]: [OwnFile, OwnFile],
  today: string,
): Promise<{ others: number; astray: number }> {
  const organisations = new Set<string>();
  for (const { role, organisationId } of db.enrolments())
    if (role === 'student' && organisationId) organisations.add(organisationId);
  const left = { others: 0, astray: 0 };
  for (const one of db.enrolments()) {
    const course = courses.get(one.classId);
    if (!course) {
      left.astray += 1;
      continue;
    }
    const person = [one.userId, one.givenName || one.familyName, one.givenName ? one.familyName : '', one.email];
    const { enrolled_on, status, ended_on } = enrolmentOf(one, course, today);
    if (one.role === 'student') {
      // One that everybody shares is the house itself, and tells nobody apart.
      const organisation = organisations.size > 1 ? one.organisation : '';
      const enrolment = [course.code, course.group, enrolled_on, status, ended_on];
      const about = [course.title, course.begins, course.ends];
      await roster.write([...person, one.phone, organisation, ...enrolment, ...about]);
    } else if (Object.hasOwn(STAFF_ROLE, one.role)) {
      if (status !== 'active') continue;
      const scope = course.group === '' ? ['course', course.code] : ['group', `${course.code}/${course.group}`];
      await staff.write([...person, STAFF_ROLE[one.role], ...scope]);
    } else left.others += 1;
  }
  return left;
}

async function writeResults(
  db: OneRosterDatabase,
  courses: Map<string, OwnCourse>,
  items: Items,
  [results, excused]: [OwnFile, OwnFile],
): Promise<void> {
  for (const { itemId, studentId, scoreStatus, score, scoreDate, comment } of db.results()) {
    const line = items.line.get(itemId);
    const course = line && courses.get(line.classId);
    if (!course) continue;
    const where = [studentId, course.code, items.ids.get(itemId)!];
    if (scoreStatus === 'exempt') await excused.write([...where, 'yes', comment]);
    else if (scoreStatus === 'submitted') await results.write([...where, scoreDate, '', '', '', comment]);
    else if (score !== '' && scoreStatus !== 'not submitted') {
      const least = Number(line.min || 0);
      const points = pointsOf(line.min, line.max);
      const above = least === 0 || !Number.isFinite(Number(score)) ? score : String(Number(score) - least);
      await results.write([...where, '', above, points, scoreDate, comment]);
    }
  }
}

/**
 * Writes the tables of an archive out as files of ours, in the order in which they are best taken.
 *
 * @param within the folder in it that holds them
 * @param now what has ended by then
 * @throws NotSuchAFile
 */
export async function oneRosterTables(
  folder: string,
  archive: Archive,
  { name, within }: { name: string; within: string },
  now: number,
): Promise<FoundTable[]> {
  const path = join(folder, `${randomUUID()}.tmp`);
  const db = new OneRosterDatabase(path);
  const file = (what: string, heading: string) => new OwnFile(folder, `${name}, ${what}`, heading.split(','));
  const outline = file(
    'outline',
    'course,course_title,starts_on,ends_on,item_id,item,kind,required,opens_at,due_at,points,category,weight',
  );
  const roster = file(
    'roster',
    'learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on,status,ended_on,course_title,course_starts_on,course_ends_on',
  );
  const staff = file('staff', 'staff_id,given_name,family_name,email,role,scope_kind,scope');
  const results = file('results', 'learner_id,course,item_id,submitted_at,score,points,graded_at,feedback');
  const excused = file('excused', 'learner_id,course,item_id,excused,reason');
  const files = [outline, roster, staff, results, excused];
  try {
    await load(db, archive, within);
    const courses = coursesIn(db);
    const items = await writeOutline(db, courses, outline);
    const left = await writePeople(db, courses, [roster, staff], new Date(now).toISOString().slice(0, 10));
    await writeResults(db, courses, items, [results, excused]);
    for (const one of files) await one.end();
    const notes = [
      left.others > 0 ? `${sayCount(left.others, 'enrolment')} of other roles are left out.` : '',
      left.astray > 0
        ? `${sayCount(left.astray, 'enrolment')} in classes that the archive does not have are left out.`
        : '',
    ].filter(Boolean);
    const made = files.filter(({ rows }) => rows > 0);
    for (const one of files) if (one.rows === 0) await rm(join(folder, one.path), { force: true });
    return made.map((one) => ({ name: one.name, path: one.path, notes: one === roster ? notes : [] }));
  } catch (error) {
    for (const one of files) {
      await one.end();
      await rm(join(folder, one.path), { force: true });
    }
    throw error;
  } finally {
    db.close();
    await rm(path, { force: true });
  }
}
