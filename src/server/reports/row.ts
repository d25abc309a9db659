/** A row of a report, with all that its columns may ask of it; what takes reading is there only where a column needs it. */
import type { Attendance, Mark } from '@/core/sessions/attendance';
import type { ItemStatus } from '@/core/completion/enrolment-progress';
import type { CourseStatus } from '@/core/completion/progress';
import type { PacePoint } from '@/core/completion/pace';
import type { ItemGrade } from '@/core/grades/course-grades';
import type { Means } from '@/core/grades/means';
import type { ContactShown } from '@/core/contact/person';
import type { CellKind, CellTime } from '@/core/reports/cells';
import type { RowsPer } from '@/core/reports/definition';
import type { Known } from '@/data/completion/enrolled';
import type { ShownAttempt } from '@/data/completion/facts';
import type { EnrolmentRow } from '@/data/people/enrolments';
import type { LearnerRow } from '@/data/people/learners';
import type { ProgressRow } from '../completion/progress-list';
import type { RecordedSession } from '../sessions/records';

/** What has to be read for some columns beside the learner and the enrolment. */
export type Need = 'standing' | 'work' | 'attendance' | 'sessions' | 'access' | 'contacts' | 'feedback' | 'averages';

/** Totals of the days of a period, or of all days. */
export interface AccessTotals {
  ms: number;
  events: number;
  days: number;
}

/** Where somebody stands in a course: from what is kept of it, or from every fact where that is read anyway. */
export interface WhereTheyStand {
  done: number;
  required: number;
  share: number | null;
  behind: number | null;
  completedAt: number | null;
  courseStatus: CourseStatus;
  onGraded: number | null;
  ofWhole: number | null;
  /** Of whoever owes work. */
  overdue: number;
}

/** A learner's time in one course. */
export interface InCourse {
  enrolment: EnrolmentRow;
  /** Of `standing` and of `work`. */
  standing: WhereTheyStand | null;
  /** Where they stand with everything: of `work`. */
  known: Known | null;
  progress: ProgressRow | null;
  grades: readonly ItemGrade[];
  means: Means | null;
  passMark: number;
  pace: () => PacePoint[];
  /** Of `attendance`, in the report's period. */
  attendance: Attendance | null;
  /** Of `sessions`, in the report's period up to now. */
  sessions: readonly RecordedSession[];
  /** Of `feedback`, by the item's number. */
  attempts: ReadonlyMap<number, readonly ShownAttempt[]>;
}

export interface ItemOfRow {
  status: ItemStatus;
  /** Where the item is work or has a result. */
  grade: ItemGrade | null;
}

export interface ReportRow {
  learner: LearnerRow;
  inCourse: InCourse | null;
  item: ItemOfRow | null;
  session: RecordedSession | null;
  /** Of `access`: in the row's course, or in all in view. */
  access: AccessTotals | null;
  /** Of `contacts`, in the report's period, newest first. */
  contacts: readonly ContactShown[];
  /** Of `averages`: those of the items, by the item's number, in per cent. */
  itemAverages: ReadonlyMap<number, number>;
}

export interface RowTime extends CellTime {
  marks: readonly Mark[];
}

/** What is kept of an enrolment, from which averages are taken. */
export interface KeptFigures {
  progress: number | null;
  onGraded: number | null;
  ofWhole: number | null;
  attendance: number | null;
  minutes: number | null;
  /** Of whose time in the course goes on. */
  overdue: number | null;
}

/** A column that a report may have: named, with its unit and one sentence. */
export interface ReportColumn {
  name: string;
  title: string;
  kind: CellKind;
  /** One sentence: what it is. */
  says: string;
  /** The least that a row has to be. */
  per: RowsPer;
  /** May it go to the learner, a family or an employer? */
  leaves: boolean;
  needs?: readonly Need[];
  of: (row: ReportRow, at: RowTime) => unknown;
  /** What the course's or group's average is taken of; a column without it has none. */
  averageOf?: keyof KeptFigures;
  /** A column for each chosen item or category: the value for one of them. */
  each?: (row: ReportRow, of: string) => unknown;
}
