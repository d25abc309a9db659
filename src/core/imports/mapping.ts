/** Files whose headings are not ours: which of their columns is which of ours, and how dates are written. */
import { foldHeading } from './heading-name';
import { FILE_KINDS, FILE_KIND_NAMES, type FileKindName } from './kinds';

/** ISO 8601, or numerals with the day or the month first. */
export const DATE_ORDERS = ['iso', 'day_first', 'month_first'] as const;
export type DateOrder = (typeof DATE_ORDERS)[number];

export interface Mapping {
  /** Our column for each of the file's headings (folded); null for one that is not used. */
  columns: Record<string, string | null>;
  dates: DateOrder;
  /** Zone of times without an offset. */
  timezone: string;
}

/** Columns that hold dates or times. */
const TIME_COLUMNS = new Set([
  'enrolled_on',
  'ended_on',
  'starts_on',
  'ends_on',
  'opens_at',
  'due_at',
  'changed_at',
  'time',
]);

export function isTimeColumn(name: string): boolean {
  return TIME_COLUMNS.has(name);
}

/** What is wrong with a mapping of some headings for a kind of file, in words. */
export function mappingFaults(kind: FileKindName, headings: readonly string[], { columns }: Mapping): string[] {
  const ours: readonly string[] = FILE_KINDS[kind].columns;
  const users = new Map<string, string[]>();
  for (const heading of headings) {
    const to = columns[foldHeading(heading)];
    if (to) users.set(to, [...(users.get(to) ?? []), heading]);
  }
  return [...users].flatMap(([to, from]) => {
    if (!ours.includes(to)) return [`${from[0]} is mapped to ${to}, which a ${kind} file does not have`];
    return from.length > 1 ? [`${from.join(' and ')} are both mapped to ${to}`] : [];
  });
}

const NUMERALS =
  /^(\d{1,4})[./-](\d{1,2})[./-](\d{1,4})(?:[T ,]+(\d{1,2})[:.](\d{2})(?:[:.](\d{2}))?\s*([ap]\.?m\.?)?)?$/i;

/**
 * A date or time in numerals as ISO 8601, by the order its file is written in; any other text as it
 * is, for the column's own check to judge. 30 February stays 30 February.
 */
export function isoFromNumerals(text: string, order: DateOrder): string {
  const match = order === 'iso' ? null : NUMERALS.exec(text.trim());
  if (!match || match[1].length === 3 || match[1].length > 2) return text;
  const [, first, second, year, hour, minute, secondOfMinute, half] = match;
  const [day, month] = order === 'day_first' ? [first, second] : [second, first];
  const fullYear = year.length === 2 ? `20${year}` : year;
  if (fullYear.length !== 4) return text;
  const date = `${fullYear}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  if (hour === undefined) return date;
  const hours = half ? (Number(hour) % 12) + (/^p/i.test(half) ? 12 : 0) : Number(hour);
  return `${date}T${String(hours).padStart(2, '0')}:${minute}:${secondOfMinute ?? '00'}`;
}

/** The order that some texts are certainly written in; null where it could be either. */
export function dateOrderOf(texts: readonly string[]): DateOrder | null {
  let [dayFirst, monthFirst, numerals] = [true, true, false];
  for (const text of texts) {
    const match = NUMERALS.exec(text.trim());
    if (!match || match[1].length > 2) continue;
    numerals = true;
    if (Number(match[1]) > 12) monthFirst = false;
    if (Number(match[2]) > 12) dayFirst = false;
  }
  if (!numerals) return 'iso';
  return dayFirst === monthFirst ? null : dayFirst ? 'day_first' : 'month_first';
}

/** Other words that files use for our columns. */
const SYNONYMS: Record<string, readonly string[]> = {
  learner_id: [
    'id',
    'student_id',
    'student_number',
    'user_id',
    'username',
    'user',
    'learner',
    'student',
    'participant_id',
    'person_id',
    'number',
    'member_id',
  ],
  staff_id: ['id', 'user_id', 'username', 'employee_id', 'person_id', 'number'],
  given_name: ['first_name', 'firstname', 'forename', 'forenames', 'christian_name', 'given_names', 'givenname'],
  family_name: ['last_name', 'lastname', 'surname', 'familyname'],
  email: ['e_mail', 'mail', 'email_address', 'e_mail_address'],
  phone: ['telephone', 'tel', 'mobile', 'mobile_phone', 'phone_number', 'telephone_number', 'cell'],
  organisation: ['organization', 'company', 'employer', 'partner', 'institution', 'firm', 'sponsor'],
  course: ['course_code', 'course_id', 'class', 'module', 'programme', 'course_name', 'subject'],
  course_title: ['course_name', 'title_of_course', 'course_full_name'],
  group: ['cohort', 'section', 'team', 'group_name', 'class_group', 'stream'],
  enrolled_on: [
    'enrolment_date',
    'enrollment_date',
    'start_date',
    'started',
    'joined',
    'date_enrolled',
    'enrolled',
    'from',
  ],
  ended_on: ['end_date', 'left', 'leaving_date', 'withdrawn_on', 'date_left', 'to', 'until'],
  status: ['state', 'enrolment_status', 'enrollment_status'],
  starts_on: ['start', 'start_date', 'begins', 'from'],
  ends_on: ['end', 'end_date', 'finishes', 'to'],
  unit: ['week', 'section', 'topic', 'chapter', 'lesson'],
  item_id: ['item', 'activity_id', 'resource_id', 'content_id', 'object_id', 'page_id'],
  item: ['title', 'item_title', 'name', 'activity', 'activity_name', 'resource', 'content'],
  kind: ['type', 'item_type', 'activity_type', 'resource_type'],
  required: ['mandatory', 'compulsory', 'needed'],
  opens_at: ['opens', 'available_from', 'visible_from', 'open_date'],
  due_at: ['due', 'due_date', 'deadline', 'closes'],
  points: ['max_points', 'marks', 'maximum', 'max_score', 'out_of'],
  category: ['grade_category', 'part'],
  weight: ['category_weight', 'share'],
  changed_at: ['modified', 'updated', 'last_modified', 'changed'],
  role: ['position', 'job', 'staff_role'],
  scope_kind: ['sees', 'scope_type', 'level'],
  time: ['timestamp', 'date', 'datetime', 'date_time', 'when', 'event_time', 'date_and_time', 'logged_at', 'at'],
  action: ['event', 'event_name', 'verb', 'activity', 'operation', 'what', 'description'],
  address: ['ip', 'ip_address', 'origin', 'host'],
  event_id: ['id', 'log_id', 'uuid', 'record_id', 'entry'],
};

const LOOKS: Partial<Record<string, RegExp>> = {
  email: /^[^\s@]+@[^\s@]+\.[^\s@]+$/,
  phone: /^\+?[\d\s()/-]{7,}$/,
  status: /^(active|withdrawn|completed)$/i,
  kind: /^(page|file|link|video|quiz|assignment|discussion|session)$/i,
  required: /^(yes|no)$/i,
  role: /^(lead|instructor|mentor|coordinator)$/i,
  scope_kind: /^(all|organisation|course|group|learner)$/i,
  address: /^(\d{1,3}\.){3}\d{1,3}$|^[\da-f]{0,4}(:[\da-f]{0,4}){2,}$/i,
};
const TIME = /^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}([T ,].*)?$/;

/** How well a column's name and content fit one of ours: 0 is not at all. */
function fit(name: string, heading: string, samples: readonly string[]): number {
  const look = isTimeColumn(name) ? TIME : LOOKS[name];
  const filled = samples.filter((text) => text !== '');
  const looks = look !== undefined && filled.length > 0 && filled.every((text) => look.test(text));
  // What looks like nothing of the kind is not it, whatever it is called.
  if (look !== undefined && filled.length > 0 && !filled.some((text) => look.test(text))) return 0;
  const byName =
    heading === name
      ? 100
      : (SYNONYMS[name] ?? []).includes(heading)
        ? 70 - (SYNONYMS[name] ?? []).indexOf(heading)
        : heading.includes(name) || (name.length > 4 && heading.length > 3 && name.includes(heading))
          ? 30
          : 0;
  const byContent = looks ? (isTimeColumn(name) || name === 'required' ? 10 : 28) : 0;
  return byName === 0 && byContent < 28 ? 0 : byName + byContent;
}

export interface Proposal {
  columns: Mapping['columns'];
  /** Null where the order of day and month has to be said. */
  dates: DateOrder | null;
}

/**
 * Proposes which column is which, by heading and by content: each of ours goes to at most one of
 * theirs, the best fit first.
 */
export function proposeMapping(
  kind: FileKindName,
  headings: readonly string[],
  rows: readonly (readonly string[])[],
): Proposal {
  const folded = headings.map(foldHeading);
  const samples = headings.map((_, index) => rows.map((cells) => (cells[index] ?? '').trim()));
  const fits = FILE_KINDS[kind].columns.flatMap((name) =>
    folded.map((heading, index) => ({ name, index, score: fit(name, heading, samples[index]) })),
  );
  fits.sort((a, b) => b.score - a.score);
  const taken = new Map<number, string>();
  for (const { name, index, score } of fits) {
    if (score === 0) break;
    if (!taken.has(index) && ![...taken.values()].includes(name)) taken.set(index, name);
  }
  const times = [...taken].filter(([, name]) => isTimeColumn(name)).flatMap(([index]) => samples[index]);
  return {
    columns: Object.fromEntries(folded.map((heading, index) => [heading, taken.get(index) ?? null])),
    dates: dateOrderOf(times),
  };
}

/** The kind of file that most of the columns fit; of two alike, the one that they fill more of. */
export function guessKind(headings: readonly string[], rows: readonly (readonly string[])[]): FileKindName {
  const fitting = (kind: FileKindName) => {
    const known = Object.values(proposeMapping(kind, headings, rows).columns).filter((name) => name !== null).length;
    return known + known / FILE_KINDS[kind].columns.length;
  };
  return [...FILE_KIND_NAMES].sort((a, b) => fitting(b) - fitting(a))[0];
}
