/** What a file is and how it is read, by its first rows and by what somebody has said of it. */
import {
  readAsOwn,
  planOf,
  recogniseFile,
  type LikelyKind,
  type Missing,
  type Recognition,
} from '@/core/imports/recognise-file';
import { withRoles, type RoleChoices } from '@/core/imports/foreign/choose-roles';
import type { Found, Plan } from '@/core/imports/foreign/plan';
import { NotSuchAFile } from '@/core/imports/heading';
import type { FileKindName } from '@/core/imports/kinds';
import type { DateOrder, Mapping } from '@/core/imports/mapping';
import { sayInstant } from '@/core/time/words';
import { withRaw } from '@/data/db';
import type { addRun } from '@/data/imports/import-runs';
import { courseByText } from '@/data/imports/settle';
import { InvalidInput } from '../request/input';
import type { Runtime } from '../runtime';
import { isCalendar } from './calendar-file';
import type { FoundTable } from './containers/tables';
import { readHead, type FileHead } from './read-file';
import { incomingPath } from './run';

/** A file that cannot be taken before somebody says what it is, or something of it. */
export class NotRecognised extends InvalidInput {
  override name = 'NotRecognised';
  override readonly more: { kinds: LikelyKind[]; missing: string[] };

  /** @param kinds what it could be, with how sure that is */
  constructor(kinds: LikelyKind[], missing: (Missing | 'kind' | 'columns')[], message?: string) {
    super(missing.map((field) => ({ field, message: message ?? MISSING_WORDS[field as Missing] })));
    this.more = { kinds, missing };
  }
}

/** What an import is begun with. */
export type NewRun = Parameters<typeof addRun>[1];

/** What somebody has said of a file: every one of it may be left out. */
export interface FileChoices {
  kind: FileKindName | null;
  course: string | null;
  session: string | null;
  create: boolean;
  /** Epoch ms; null for when it came. */
  madeAt: number | null;
  dates: DateOrder | null;
  timezone: string;
  /** Was it looked at on the page first? Then what it is was seen, and it is read as it was shown. */
  isOffered?: boolean;
  /** What columns are, by their place, where it is not what they were taken for. */
  roles?: RoleChoices;
  /** Items that texts of another system's file are, by the text: their ids. */
  itemsSaid?: Plan['itemsSaid'];
  /** Of one of our own kinds: our column for a heading (folded), or null for none. */
  mapping?: Mapping['columns'];
}

/** The headings by which a file's shape is told: of another system's file those of its table, else its first row. */
export function headingOf({ recognition, head }: Awaited<ReturnType<typeof lookAtFile>>): readonly string[] {
  return recognition.how === 'foreign' ? recognition.found.head.heading : (head.rows[0] ?? []);
}

/** What a file was taken for, by its first rows and by what somebody has said of it. */
export async function lookAtFile(
  runtime: Pick<Runtime, 'settings'>,
  { kind, roles }: FileChoices,
  table: Pick<FoundTable, 'path'>,
): Promise<{ recognition: Recognition; head: FileHead; isCalendar: boolean }> {
  const path = incomingPath(runtime, table);
  const head = await readHead(path);
  const found = recogniseFile(head.rows, head.delimiter, kind);
  const recognition = found.how === 'foreign' && roles ? { ...found, found: withRoles(found.found, roles) } : found;
  return { recognition, head, isCalendar: await isCalendar(path) };
}

/** How a table is read: as a file of ours, by a mapping, or by a plan. @throws NotRecognised, NotSuchAFile */
export async function howToRead(
  runtime: Runtime,
  choices: FileChoices,
  mapping: Mapping | null,
  table: Pick<FoundTable, 'path' | 'notes'>,
): Promise<Pick<NewRun, 'kind' | 'mapping' | 'plan' | 'notes'>> {
  const { kind, timezone } = choices;
  const isOfOthers = kind === 'participants' || kind === 'gradebook' || kind === 'completion';
  if (kind !== null && !isOfOthers && !choices.isOffered)
    return (
      (mapping === null && (await readAsAnothers(runtime, kind, choices, table))) || {
        kind,
        mapping: mapping && JSON.stringify(mapping),
      }
    );
  const { recognition, head, isCalendar: isCalendarFile } = await lookAtFile(runtime, choices, table);
  if (isCalendarFile) return { kind: 'sessions', mapping: null };
  if (recognition.how === 'ours' || (recognition.how === 'unknown' && kind !== null)) {
    const of = kind ?? recognition.kinds[0].kind;
    const { mapping: columns, lacks } = readAsOwn(of, recognition, head.rows, choices.mapping);
    if (lacks.length > 0)
      throw new NotRecognised(
        recognition.kinds,
        ['columns'],
        `do not say ${lacks.join(', ')}: say which of its columns it is`,
      );
    const dates = choices.dates ?? columns?.dates ?? null;
    if (columns !== null && dates === null) throw new NotRecognised(recognition.kinds, ['dates']);
    return { kind: of, mapping: columns && JSON.stringify({ columns: columns.columns, dates, timezone }) };
  }
  if (recognition.how === 'unknown') {
    throw new NotRecognised(
      recognition.kinds,
      ['kind'],
      'is not known: there is no heading in it that names a person, or nothing is told of them. Say which kind of file it is.',
    );
  }
  const { plan, missing } = await planFor(runtime, choices, recognition.found);
  if (missing.length > 0) throw new NotRecognised(recognition.kinds, missing);
  const isByAge = plan.kind === 'participants' && plan.roles.includes('last_access') && choices.madeAt === null;
  const notes = isByAge
    ? [...table.notes, `Ages are counted back from ${sayInstant(plan.madeAt, timezone)}, when it came.`]
    : table.notes;
  return { kind: plan.kind, mapping: null, plan: JSON.stringify(plan), notes: JSON.stringify(notes) };
}

/**
 * A log or a record of presence that was said to be one, with headings that are not ours: read as another system's where
 * nothing is left to be said; null where it is ours, or cannot be told.
 */
async function readAsAnothers(
  runtime: Runtime,
  kind: FileKindName,
  choices: FileChoices,
  table: Pick<FoundTable, 'path'>,
): Promise<Pick<NewRun, 'kind' | 'mapping' | 'plan'> | null> {
  if (kind !== 'access-log' && kind !== 'presence' && kind !== 'marks') return null;
  try {
    const { recognition } = await lookAtFile(runtime, choices, table);
    if (recognition.how !== 'foreign') return null;
    const { plan, missing } = await planFor(runtime, choices, recognition.found);
    const isSure = recognition.found.recognised.sure >= 0.9;
    return isSure && missing.length === 0 ? { kind, mapping: null, plan: JSON.stringify(plan) } : null;
  } catch (error) {
    if (error instanceof NotSuchAFile) return null;
    throw error;
  }
}

export const MISSING_WORDS: Record<Missing, string> = {
  course: 'is not named in it: say which course it is of',
  dates: 'could be either way round: say whether the day or the month comes first',
  session: 'is not known: say which session it is of',
};

/** How a file of another system is read, and what has to be said before. */
export async function planFor({ db, clock }: Runtime, choices: FileChoices, found: Found) {
  const course = choices.course || (await courseInPreamble(db, found));
  return planOf(found, { ...choices, course, madeAt: choices.madeAt ?? clock.now() });
}

/** A course that is known and that a file speaks of above its table; null for none, or several. */
async function courseInPreamble(db: Runtime['db'], { head, recognised }: Found): Promise<string | null> {
  if (recognised.roles.includes('course')) return null;
  const said = head.preamble.flatMap(({ name, value }) => [value, ...(name === null ? [] : [name])]);
  return withRaw(db, (raw) => {
    for (const text of said) {
      const words = text.split(/\s+/);
      // The longest run of words that is a course's code or title: "Activity of Hatchery Technician".
      for (let length = words.length; length > 0; length -= 1)
        for (let from = 0; from + length <= words.length; from += 1) {
          const found = courseByText(raw, words.slice(from, from + length).join(' '));
          if (found) return found.code;
        }
    }
    return null;
  });
}
