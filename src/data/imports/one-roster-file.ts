/** A OneRoster archive laid out in a database of its own, on disk, so that files of any length are joined in little memory. */
import Database from 'better-sqlite3';
import type { OneRosterFile } from '@/core/imports/one-roster/files';

/** A class with its course, as the archive has it. */
export interface ClassRow {
  id: string;
  title: string;
  code: string;
  courseId: string;
  courseTitle: string;
  courseCode: string;
  termIds: string;
}

export interface EnrolmentRow {
  classId: string;
  role: string;
  status: string;
  beginDate: string;
  endDate: string;
  dateLastModified: string;
  userId: string;
  givenName: string;
  familyName: string;
  email: string;
  phone: string;
  /** Empty for none, and for the house that others belong to. */
  organisation: string;
  organisationId: string;
}

export interface LineItemRow {
  id: string;
  classId: string;
  title: string;
  assignDate: string;
  dueDate: string;
  min: string;
  max: string;
  category: string;
  weight: string;
}

export interface ResultRow {
  itemId: string;
  studentId: string;
  scoreStatus: string;
  score: string;
  scoreDate: string;
  comment: string;
}

const THERE = "<> 'tobedeleted'";

const CLASSES = `SELECT k.sourcedId AS id, k.title, k.classCode AS code, k.courseSourcedId AS courseId,
    ifnull(c.title, '') AS courseTitle, ifnull(c.courseCode, '') AS courseCode, k.termSourcedIds AS termIds
  FROM classes k LEFT JOIN courses c ON c.sourcedId = k.courseSourcedId
  WHERE k.status ${THERE} AND ifnull(c.status, '') ${THERE} ORDER BY k.rowid`;

/**
 * An organisation is that of a person's primary one, else of their role's, else (in version 1.1) their first; one that others
 * belong to is the house, and has no name here. Names that are preferred come before others.
 */
const ENROLMENTS = `SELECT p.*, ifnull(o.sourcedId, '') AS organisationId,
    CASE WHEN EXISTS (SELECT 1 FROM orgs x WHERE x.parentSourcedId = o.sourcedId) THEN '' ELSE ifnull(o.name, '') END AS organisation
  FROM (SELECT e.rowid AS place, e.classSourcedId AS classId, lower(e.role) AS role,
      CASE WHEN e.status = 'tobedeleted' OR u.status = 'tobedeleted' THEN 'tobedeleted' ELSE 'active' END AS status,
      e.beginDate, e.endDate,
      max(e.dateLastModified, CASE WHEN u.status = 'tobedeleted' THEN u.dateLastModified ELSE '' END) AS dateLastModified,
      u.sourcedId AS userId, coalesce(nullif(u.preferredGivenName, ''), u.givenName) AS givenName,
      coalesce(nullif(u.preferredFamilyName, ''), u.familyName) AS familyName, u.email,
      coalesce(nullif(u.sms, ''), u.phone) AS phone,
      coalesce(nullif(u.primaryOrgSourcedId, ''),
        (SELECT r.orgSourcedId FROM roles r WHERE r.userSourcedId = u.sourcedId AND r.status ${THERE}
         ORDER BY r.roleType <> 'primary' LIMIT 1),
        trim(substr(u.orgSourcedIds, 1, instr(u.orgSourcedIds || ',', ',') - 1))) AS orgId
    FROM enrollments e JOIN users u ON u.sourcedId = e.userSourcedId) p
  LEFT JOIN orgs o ON o.sourcedId = p.orgId ORDER BY p.place`;

const LINE_ITEMS = `SELECT i.sourcedId AS id, i.classSourcedId AS classId, i.title, i.assignDate, i.dueDate,
    i.resultValueMin AS min, i.resultValueMax AS max, ifnull(c.title, '') AS category, ifnull(c.weight, '') AS weight
  FROM lineItems i LEFT JOIN categories c ON c.sourcedId = i.categorySourcedId AND c.status ${THERE}
  WHERE i.status ${THERE} ORDER BY i.rowid`;

const RESULTS = `SELECT lineItemSourcedId AS itemId, studentSourcedId AS studentId, lower(scoreStatus) AS scoreStatus,
    score, scoreDate, comment FROM results WHERE status ${THERE} ORDER BY rowid`;

export class OneRosterDatabase {
  private readonly raw: Database.Database;

  constructor(path: string) {
    this.raw = new Database(path);
    // It is thrown away: nothing of it has to outlive a power cut.
    this.raw.exec('PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF; PRAGMA cache_size = -16000');
  }

  /** Makes a file's table, empty: columns that the file lacks are there, and empty. */
  make(file: OneRosterFile, columns: readonly string[]): void {
    this.raw.exec(`CREATE TABLE ${file} (${columns.map((name) => `"${name}" TEXT NOT NULL DEFAULT ''`).join(', ')})`);
  }

  /** Takes rows of a file. */
  add(file: OneRosterFile, columns: readonly string[], rows: readonly (readonly string[])[]): void {
    const names = columns.map((name) => `"${name}"`).join(', ');
    const insert = this.raw.prepare(`INSERT INTO ${file} (${names}) VALUES (${columns.map(() => '?').join(', ')})`);
    this.raw.transaction(() => {
      for (const row of rows) insert.run(...row);
    })();
  }

  /** Everything is in: what is looked up is indexed. */
  index(): void {
    for (const file of ['users', 'courses', 'orgs', 'categories'])
      this.raw.exec(`CREATE INDEX ${file}_id ON ${file} (sourcedId)`);
    this.raw.exec('CREATE INDEX roles_user ON roles (userSourcedId)');
    this.raw.exec('CREATE INDEX orgs_parent ON orgs (parentSourcedId)');
  }

  classes(): ClassRow[] {
    return this.raw.prepare(CLASSES).all() as ClassRow[];
  }

  /** First and last day of each term. */
  terms(): Map<string, { begins: string; ends: string }> {
    const rows = this.raw.prepare('SELECT sourcedId, startDate, endDate FROM academicSessions').raw().all();
    return new Map((rows as string[][]).map(([id, begins, ends]) => [id, { begins, ends }]));
  }

  enrolments(): IterableIterator<EnrolmentRow> {
    return this.raw.prepare(ENROLMENTS).iterate() as IterableIterator<EnrolmentRow>;
  }

  lineItems(): IterableIterator<LineItemRow> {
    return this.raw.prepare(LINE_ITEMS).iterate() as IterableIterator<LineItemRow>;
  }

  results(): IterableIterator<ResultRow> {
    return this.raw.prepare(RESULTS).iterate() as IterableIterator<ResultRow>;
  }

  close(): void {
    this.raw.close();
  }
}
