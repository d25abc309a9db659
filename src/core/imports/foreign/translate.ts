/** Rows of another system's file as rows of ours, once it is settled who and what they name. */
import { parseInstant } from '../../time/instant';
import { DAY, HOUR, MINUTE } from '../../time/zone';
import type { Fault } from '../heading';
import { readGradeCell } from './grade-cell';
import { readAge, readLength } from './length';
import { isTooLong, openPersonReader, personKey, spokenName, type PersonCells } from './person-cells';
import type { Plan } from './plan';
import type { ForeignKind } from './recognise';
import { dateInHeading, readMark } from './register';
import { unitOfHeading, type ColumnRole } from './roles';
import { openCourseReader } from './survey';
import { isSums } from './table';
import { isoFromForeign } from './when';
import { DONE, EXCUSED, NOT_DONE, foldWord, isStaffWord } from './words';

/** Columns of our own files that rows become, by kind. */
export const TARGET_COLUMNS: Readonly<Record<ForeignKind, readonly string[]>> = {
  'access-log': ['time', 'learner_id', 'course', 'item_id', 'action', 'address', 'event_id'],
  participants: [
    ...['learner_id', 'course', 'last_access', 'exact_to', 'status', 'progress', 'minutes', 'group', 'enrolled_on'],
  ],
  gradebook: ['learner_id', 'course', 'item_id', 'score', 'points', 'excused', 'graded_at', 'submitted_at'],
  completion: ['learner_id', 'course', 'item_id', 'done', 'done_at'],
  presence: ['session_id', 'person', 'email', 'entered', 'left'],
  marks: ['session_id', 'learner_id', 'mark'],
};

/** Who and what the texts of a file stand for. */
export interface Settled {
  /** The course's code; null where it is not known. */
  course(text: string): string | null;
  /** The learner's or staff's id; `waits` where somebody has to say who it is, `nobody` where they have said it is no learner. */
  person(course: string, key: string): { id: string; isStaff: boolean } | 'waits' | 'nobody';
  /** The item's id; null where it is not known, `several` where more than one is called so. */
  item(course: string, title: string): string | null | 'several';
  /** The session of a meeting, with its times; null where there is none such. */
  session(text: string): { id: string; startsAt: number; endsAt: number } | null;
  /** The session of a learner's on a day, or at a time of it, in ISO 8601; null where there is none, or several. */
  sessionOn(course: string, iso: string, learner: string): string | null;
}

/** What a row comes to. */
export interface Translated {
  /** Rows of ours, in the order of the kind's columns. */
  rows: string[][];
  /** Whose row waits until somebody says who it is; null for none. */
  waits: { person: PersonCells; course: string } | null;
  /** What of the row cannot be taken; the rest is. */
  fault: Fault | null;
}

const fault = (field: string, reason: string): Fault => ({ field, reason });
const nothing = (why: Fault | null = null): Translated => ({ rows: [], waits: null, fault: why });

/** How exact an age is, in ms: as far as the smallest unit that it names. */
function exactnessOf(text: string): number {
  const folded = foldWord(text);
  if (/\b(s|sec\w*|sek\w*|second\w*|segundo\w*)\b/.test(folded)) return 0;
  const ms = readLength(folded) ?? 0;
  return ms % HOUR !== 0
    ? MINUTE
    : ms % DAY !== 0 || /hour|stunde|heure|hora|\bh\b|\bstd\b|\buur|\bore?\b/.test(folded)
      ? HOUR
      : DAY;
}

const number = (value: number) => String(Math.round(value * 1e6) / 1e6);

/** Opens what translates the rows of a file. Rows of totals come to nothing. @param timezone of times without an offset */
export function openTranslator(
  plan: Plan,
  settled: Settled,
  timezone: string,
): (cells: readonly string[]) => Translated | null {
  const { kind, roles, dates, madeAt } = plan;
  const personOf = openPersonReader(plan);
  const courseOf = openCourseReader(plan);
  const index = new Map(roles.flatMap((role, at) => (role === null ? [] : [[role, at] as const])));
  const cell = (cells: readonly string[], role: ColumnRole) => {
    const at = index.get(role);
    return at === undefined ? '' : (cells[at] ?? '').trim();
  };
  const when = (text: string) => (text === '' ? '' : isoFromForeign(text, dates));
  const madeIso = new Date(madeAt).toISOString();
  const unit = (role: ColumnRole) => {
    const at = index.get(role);
    return at === undefined ? undefined : (unitOfHeading(plan.heading[at] ?? '') ?? undefined);
  };
  const [unitOfDuration, unitOfMinutes] = [unit('duration') ?? MINUTE, unit('minutes') ?? MINUTE];

  function itemId(course: string, title: string): string | Fault {
    const found = settled.item(course, title);
    if (found === null)
      return fault(
        'item',
        `there is no item ${title} in ${course}: bring in the outline, or have what is missing made`,
      );
    return found === 'several' ? fault('item', `more than one item of ${course} is called ${title}`) : found;
  }

  /** The date of a text that is one; empty for any other. */
  const dateIn = (text: string) => (/^\d{4}-\d{2}-\d{2}/.exec(when(text)) ?? [''])[0];

  /** What a last access is in our own words: an instant, never, or nothing. */
  function lastAccess(text: string): readonly [at: string, exactTo: string] | Fault {
    if (text === '' || text === '-' || text === '–' || text === '—') return ['', ''];
    const age = readAge(text);
    if (age === 'never') return ['never', ''];
    if (age !== null) return [new Date(madeAt - age).toISOString(), String(exactnessOf(text) / 1000)];
    const iso = when(text);
    if (!/^\d{4}-\d{2}-\d{2}/.test(iso)) return fault('last_access', `is neither a time, an age nor never: ${text}`);
    if (iso.length > 10) return [iso, '0'];
    // Of a day nobody knows the hour: at its end, and not after the list was made.
    const end = parseInstant(`${iso}T23:59`, timezone);
    return end === null ? [iso, ''] : [new Date(Math.min(end, madeAt)).toISOString(), String(DAY / 1000)];
  }

  /** Rows of scores or of what is done, from one cell. */
  function fromCell(
    learner: string,
    course: string,
    title: string,
    points: number | null,
    text: string,
  ): string[] | Fault | null {
    const read = readGradeCell(text);
    if (read.is === 'nothing' || read.is === 'missing') return null;
    if (kind === 'completion') {
      const doneAt = read.is === 'unreadable' ? when(text) : '';
      const isDate = /^\d{4}-\d{2}-\d{2}/.test(doneAt);
      if (read.is === 'unreadable' && !isDate) return fault(title, `is neither done nor not done: ${text}`);
      const id = itemId(course, title);
      if (typeof id !== 'string') return id;
      const state = read.is === 'excused' ? 'excused' : read.is === 'not done' ? 'no' : 'yes';
      // A share of what is done is done when it is all.
      if (read.is === 'percent' && read.percent < 100) return [learner, course, id, 'no', ''];
      if (read.is === 'points')
        return [learner, course, id, read.points > 0 ? 'yes' : 'no', read.points > 0 ? madeIso : ''];
      return [learner, course, id, state, isDate ? doneAt : state === 'yes' ? madeIso : ''];
    }
    if (read.is === 'excused') {
      const id = itemId(course, title);
      return typeof id === 'string' ? [learner, course, id, '', '', 'yes', madeIso, ''] : id;
    }
    if (read.is !== 'points' && read.is !== 'percent') return fault(title, `is no score: ${text}`);
    const id = itemId(course, title);
    if (typeof id !== 'string') return id;
    const [score, outOf] =
      read.is === 'points'
        ? [read.points, read.of ?? points]
        : points === null
          ? [read.percent, 100]
          : [(read.percent * points) / 100, points];
    if (score < 0) return fault(title, `is less than 0: ${text}`);
    return [learner, course, id, number(score), outOf === null ? '' : number(outOf), '', madeIso, ''];
  }

  /** A person's row of a register: a mark for each session. */
  function register(cells: readonly string[], learner: string, course: string): Translated {
    const translated = nothing();
    if (plan.items.length === 0) {
      const mark = readMark(cell(cells, 'mark'));
      if (mark === '') return translated;
      if (mark === null) return nothing(fault('mark', `is no mark: ${cell(cells, 'mark')}`));
      const at = when(cell(cells, 'time'));
      const session = settled.sessionOn(course, at, learner);
      return session === null
        ? nothing(fault('time', `there is no session of ${course} then: bring in the timetable first`))
        : { ...translated, rows: [[session, learner, mark]] };
    }
    for (const { index: at, title } of plan.items) {
      const text = (cells[at] ?? '').trim();
      const mark = readMark(text);
      if (mark === '') continue;
      const session = mark === null ? null : settled.sessionOn(course, when(dateInHeading(title) ?? ''), learner);
      if (mark === null) translated.fault ??= fault(title, `is no mark: ${text}`);
      else if (session === null)
        translated.fault ??= fault(title, `there is no session of ${course} then: bring in the timetable first`);
      else translated.rows.push([session, learner, mark]);
    }
    return translated;
  }

  function wide(cells: readonly string[], learner: string, course: string): Translated {
    const translated = nothing();
    for (const item of plan.items) {
      const text = (cells[item.index] ?? '').trim();
      if (text === '') continue;
      const row = fromCell(learner, course, item.title, item.points, text);
      const date = item.dateIndex === undefined ? '' : when((cells[item.dateIndex] ?? '').trim());
      // A column of its own says when it was done.
      if (kind === 'completion' && Array.isArray(row) && row[3] === 'yes' && /^\d{4}-\d{2}-\d{2}/.test(date))
        row[4] = date;
      if (Array.isArray(row)) translated.rows.push(row);
      else if (row !== null) translated.fault ??= row;
    }
    return translated;
  }

  function long(cells: readonly string[], learner: string, course: string): Translated {
    const title = cell(cells, 'item');
    if (title === '') return nothing(fault('item', 'is missing'));
    if (kind === 'gradebook') {
      const outOf = readGradeCell(cell(cells, 'points'));
      const row = fromCell(learner, course, title, outOf.is === 'points' ? outOf.points : null, cell(cells, 'score'));
      if (row !== null && !Array.isArray(row)) return nothing(row);
      const said = when(cell(cells, 'submitted_at'));
      const submitted = /^\d{4}-\d{2}-\d{2}/.test(said) ? said : '';
      if (row !== null) return { ...nothing(), rows: [[...row.slice(0, -1), submitted]] };
      if (submitted === '') return nothing();
      const id = itemId(course, title);
      return typeof id === 'string'
        ? { ...nothing(), rows: [[learner, course, id, '', '', '', '', submitted]] }
        : nothing(id);
    }
    const id = itemId(course, title);
    if (typeof id !== 'string') return nothing(id);
    const word = foldWord(cell(cells, 'done'));
    const doneAt = when(cell(cells, 'done_at'));
    const state = EXCUSED.has(word) ? 'excused' : DONE.has(word) || (word === '' && doneAt !== '') ? 'yes' : 'no';
    if (word !== '' && state === 'no' && !NOT_DONE.has(word))
      return nothing(fault('done', `is neither done nor not done: ${cell(cells, 'done')}`));
    return { ...nothing(), rows: [[learner, course, id, state, state === 'yes' ? doneAt || madeIso : '']] };
  }

  function participant(cells: readonly string[], learner: string, course: string): Translated {
    const last = lastAccess(cell(cells, 'last_access'));
    if (!Array.isArray(last)) return nothing(last as Fault);
    const progress = readGradeCell(cell(cells, 'progress'));
    const share =
      progress.is === 'percent'
        ? progress.percent
        : progress.is === 'points'
          ? progress.of
            ? (100 * progress.points) / progress.of
            : progress.points * (plan.isShare ? 100 : 1)
          : null;
    // Of weeks on a platform "3:20" is hours and minutes.
    const length = readLength(cell(cells, 'minutes').replace(/^(\d+:\d{2})$/, '$1:00'), unitOfMinutes);
    const row = [
      ...[learner, course, ...last, statusOf(cell(cells, 'status'))],
      ...[share === null ? '' : number(share), length === null ? '' : number(length / MINUTE)],
      ...[cell(cells, 'group'), dateIn(cell(cells, 'enrolled_on'))],
    ];
    return { ...nothing(), rows: [row] };
  }

  function presence(cells: readonly string[]): Translated {
    const session = settled.session(cell(cells, 'session'));
    if (session === null)
      return nothing(
        fault(
          'session',
          'is not known: say which session the file is of, or of which course it is, so that it is made',
        ),
      );
    const { id, email, name } = personOf(cells);
    const who = spokenName(name) || id || email;
    if (who === '') return nothing(fault('person', 'is missing'));
    const entered = when(cell(cells, 'entered'));
    const text = cell(cells, 'duration');
    const length = text === '' ? null : readLength(text, unitOfDuration);
    if (text !== '' && length === null) return nothing(fault('duration', `is no length of time: ${text}`));
    if (entered !== '') {
      // A time of leaving says more than how long it was.
      const came = parseInstant(entered, timezone);
      const left =
        when(cell(cells, 'left')) || (came === null || length === null ? '' : new Date(came + length).toISOString());
      return { ...nothing(), rows: [[session.id, who, email, entered, left]] };
    }
    if (length === null) return nothing();
    // Of a total nobody knows when it was: it stands at the session's beginning, and is no longer than the session.
    const ms = Math.min(length, session.endsAt - session.startsAt);
    const times = [session.startsAt, session.startsAt + ms].map((at) => new Date(at).toISOString());
    return { ...nothing(), rows: [[session.id, who, email, ...times]] };
  }

  return (cells) => {
    if (isSums(cells) || isStaffWord(cell(cells, 'role'))) return null;
    if (kind === 'presence') return presence(cells);
    const person = personOf(cells);
    if (person.id === '' && person.email === '' && person.name === '') return nothing(fault('person', 'is missing'));
    if (isTooLong(person)) return nothing(fault('person', 'is longer than 200 characters'));
    const text = courseOf(cells);
    const course = settled.course(text);
    if (course === null)
      return nothing(
        fault(
          'course',
          text === ''
            ? 'is missing: say which course the file is of'
            : `there is no course ${text}: bring in the outline, or have what is missing made`,
        ),
      );
    const found = settled.person(text, personKey(person));
    if (found === 'waits') return { ...nothing(), waits: { person, course } };
    if (found === 'nobody') return nothing(fault('person', 'was settled to be no learner'));
    if (kind === 'access-log') {
      const title = cell(cells, 'item');
      const item = title === '' ? '' : itemId(course, title);
      if (typeof item !== 'string') return nothing(item);
      const row = [when(cell(cells, 'time')), found.id, course, item, cell(cells, 'action') || 'opened'];
      return { ...nothing(), rows: [[...row, cell(cells, 'address'), cell(cells, 'event_id')]] };
    }
    if (found.isStaff)
      return nothing(fault('person', `${person.name || person.email || person.id} is a member of staff`));
    if (kind === 'participants') return participant(cells, found.id, course);
    if (kind === 'marks') return register(cells, found.id, course);
    return plan.items.length > 0 ? wide(cells, found.id, course) : long(cells, found.id, course);
  };
}

/** An enrolment's status in our own words; empty where it says none that is known. */
function statusOf(text: string): string {
  const folded = foldWord(text);
  if (
    /^(active|enrolled|current|aktiv|actif|activo|attivo|actief|inscrit|eingeschrieben|aktywny|y|yes|1)$/.test(folded)
  )
    return 'active';
  if (
    /^(withdrawn|dropped|left|inactive|suspended|abgemeldet|inaktiv|retire|inactif|baja|inactivo|ritirato|uitgeschreven)$/.test(
      folded,
    )
  )
    return 'withdrawn';
  return /^(completed|finished|graduated|abgeschlossen|termine|completado|finalizado|completato|afgerond|ukonczony)$/.test(
    folded,
  )
    ? 'completed'
    : '';
}
