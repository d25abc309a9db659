/** What can be set for a course, each declared once: its form, how it stands in words, and how it is kept. */
import { USUAL_TEXT } from '@/core/people/certificate';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import type { Course } from '@/core/completion/course';
import type { CourseOptions } from '@/core/completion/options';
import { DEFAULT_PASS_MARK, defaultEdges, readScale, writeScale } from '@/core/grades/bands';
import { DEFAULT_SHOWN, SHOWN_SECTIONS, type ShownSection, type ShownSections } from '@/core/grades/shown';
import { IsPercent } from '@/core/imports/validators';
import { sayDay, sayList } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { readCourse } from '@/data/completion/course';
import { keepOption } from '@/data/completion/options';
import { updateCourse } from '@/data/courses/courses';
import { withRaw, writing, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { staleCourseWork } from '@/data/work/stale-work';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { requireCourse } from './course-rights';

/** A field of a setting's form. */
type SettingField = {
  name: string;
  label: string;
  placeholder?: string;
  /** Characters at most. */
  most?: number;
} & ({ type?: 'text' | 'day' } | { type: 'choice'; choices: { value: string; label: string }[] });

interface Setting<Input extends object> {
  title: string;
  /** What it means, in a sentence or two. */
  says: string;
  input: new () => Input;
  fields: readonly SettingField[];
  /** What the form's fields hold. */
  values: (course: Course) => Record<string, string>;
  /** How it stands, in words. */
  stands: (course: Course) => string;
  /** Keeps what was sent and checked. @throws InvalidInput */
  keep: (trx: Db, courseId: number, input: Input) => Promise<void>;
}

const setting = <Input extends object>(declared: Setting<Input>): Setting<Input> => declared;

/** Keeps what stands among the course's options. */
const option =
  <Name extends keyof CourseOptions, Input>(name: Name, value: (input: Input) => CourseOptions[Name] | null) =>
  (trx: Db, courseId: number, input: Input) =>
    keepOption(trx, courseId, name, value(input));

const text = (value: number | null | undefined) => (value === null || value === undefined ? '' : String(value));
const dayText = (day: number | null) => (day === null ? '' : dateOfDay(day));

class DaysInput {
  @IsOptional() @AsDay() starts_on?: number;
  @IsOptional() @AsDay() ends_on?: number;
}

class CertificateInput {
  @IsOptional() @MaxLength(1000, { message: 'is longer than 1,000 characters' }) certificate?: string;
}

class PassMarkInput {
  @IsOptional() @IsPercent() pass_mark?: string;
}

/** The edges of the score bands. */
export class BandsInput {
  @IsOptional() @IsPercent() secure?: string;
  @IsOptional() @IsPercent() getting?: string;
}

class ScaleInput {
  @IsOptional() @MaxLength(2000, { message: 'is longer than 2,000 characters' }) scale?: string;
}

class AttendanceInput {
  @IsOptional() @IsPercent() attendance_weight?: string;
  @IsOptional() @MaxLength(200, { message: 'is too long' }) attendance_title?: string;
}

const YES_NO = ['yes', 'no'];
const yesNo = { message: 'is not one of yes, no' };

class ShownInput implements Partial<Record<ShownSection, string>> {
  @IsOptional() @IsIn(YES_NO, yesNo) weights?: string;
  @IsOptional() @IsIn(YES_NO, yesNo) percentages?: string;
  @IsOptional() @IsIn(YES_NO, yesNo) means?: string;
  @IsOptional() @IsIn(YES_NO, yesNo) feedback?: string;
  @IsOptional() @IsIn(YES_NO, yesNo) minutes?: string;
  @IsOptional() @IsIn(YES_NO, yesNo) average?: string;
}

const SECTIONS = Object.keys(SHOWN_SECTIONS) as ShownSection[];

/** The edges that were sent; null for the usual ones. @throws InvalidInput */
export function edgesOf({ secure, getting }: BandsInput): CourseOptions['bands'] | null {
  if (secure === undefined && getting === undefined) return null;
  if (secure === undefined || getting === undefined)
    throw new InvalidInput([{ field: secure === undefined ? 'secure' : 'getting', message: 'is missing' }]);
  if (Number(secure) <= Number(getting))
    throw new InvalidInput([{ field: 'secure', message: 'is not above where “getting there” begins' }]);
  return { secure: Number(secure), getting: Number(getting) };
}

/** Every setting of a course, in the order of its page. */
const COURSE_SETTINGS = {
  days: setting({
    title: 'First and last day',
    says: 'The plan lies between the two days. Without them nobody is behind, since there is no plan.',
    input: DaysInput,
    fields: [
      { name: 'starts_on', label: 'First day', type: 'day' },
      { name: 'ends_on', label: 'Last day', type: 'day' },
    ],
    values: ({ start, end }) => ({ starts_on: dayText(start), ends_on: dayText(end) }),
    stands: ({ start, end }) =>
      start === null && end === null
        ? 'not set'
        : `${start === null ? 'from an unknown day' : `from ${sayDay(start)}`} ${end === null ? 'without an end' : `to ${sayDay(end)}`}`,
    async keep(trx, courseId, { starts_on: starts = null, ends_on: ends = null }) {
      if (starts !== null && ends !== null && ends <= starts)
        throw new InvalidInput([{ field: 'ends_on', message: 'does not lie after the first day' }]);
      await updateCourse(trx, courseId, { starts_day: starts, ends_day: ends });
    },
  }),
  pass_mark: setting({
    title: 'Pass mark',
    says: 'Work under it has not been passed; a mean under it marks a learner. An outline may bring one too.',
    input: PassMarkInput,
    fields: [{ name: 'pass_mark', label: 'Pass mark, per cent', placeholder: text(DEFAULT_PASS_MARK), most: 6 }],
    values: ({ passMark }) => ({ pass_mark: text(passMark) }),
    stands: ({ passMark }) => (passMark === null ? `${DEFAULT_PASS_MARK} %, as nobody has set one` : `${passMark} %`),
    keep: (trx, courseId, { pass_mark: mark }) =>
      updateCourse(trx, courseId, { pass_mark: mark === undefined ? null : Number(mark) }),
  }),
  bands: setting({
    title: 'Score bands',
    says: 'A score is secure, getting there or not yet. With both fields empty: from the pass mark, and from the middle between it and 100.',
    input: BandsInput,
    fields: [
      { name: 'secure', label: 'Secure from, per cent', most: 6 },
      { name: 'getting', label: 'Getting there from, per cent', most: 6 },
    ],
    values: ({ options: { bands } }) => ({ secure: text(bands?.secure), getting: text(bands?.getting) }),
    stands({ options: { bands }, passMark }) {
      const { secure, getting } = bands ?? defaultEdges(passMark);
      return `secure from ${secure} %, getting there from ${getting} %${bands ? '' : ', by the pass mark'}`;
    },
    keep: option('bands', edgesOf),
  }),
  scale: setting({
    title: 'A scale for totals',
    says: 'From so many per cent on, and what it is called; the number stays beside it.',
    input: ScaleInput,
    fields: [{ name: 'scale', label: 'Steps', placeholder: '85 A, 70 B, 50 C', most: 2000 }],
    values: ({ options: { scale } }) => ({ scale: scale ? writeScale(scale) : '' }),
    stands: ({ options: { scale } }) => (scale ? writeScale(scale) : 'per cent alone'),
    keep: option('scale', ({ scale }: ScaleInput) => {
      const steps = scale === undefined ? null : readScale(scale);
      if (scale !== undefined && steps === null)
        throw new InvalidInput([
          { field: 'scale', message: 'is not made of steps such as “85 A, 70 B”, each edge once' },
        ]);
      return steps;
    }),
  }),
  attendance: setting({
    title: 'Attendance in the grades',
    says: 'Attendance as one more category. With an empty weight it does not count.',
    input: AttendanceInput,
    fields: [
      { name: 'attendance_weight', label: 'Weight among the categories, per cent', most: 6 },
      { name: 'attendance_title', label: 'What the category is called', placeholder: 'Attendance', most: 200 },
    ],
    values: ({ options: { attendance } }) => ({
      attendance_weight: text(attendance?.weight),
      attendance_title: attendance?.title ?? '',
    }),
    stands: ({ options: { attendance } }) =>
      attendance ? `${attendance.title} counts with weight ${attendance.weight}` : 'does not count',
    keep: option('attendance', ({ attendance_weight: weight, attendance_title: title }: AttendanceInput) =>
      weight === undefined ? null : { title: title ?? 'Attendance', weight: Number(weight) },
    ),
  }),
  certificate: setting({
    title: 'Certificate',
    says: 'What the certificate of completion says under the learner’s name; {{course}} and {{day}} are filled in.',
    input: CertificateInput,
    fields: [{ name: 'certificate', label: 'Text', most: 1000, placeholder: USUAL_TEXT }],
    values: ({ options: { certificate } }) => ({ certificate: certificate ?? '' }),
    stands: ({ options: { certificate } }) => certificate ?? USUAL_TEXT,
    keep: option('certificate', ({ certificate }: CertificateInput) => certificate || null),
  }),
  shown: setting({
    title: 'What learners are shown',
    says: 'What stands on the page that a learner of this course may have of their own work, for every learner alike.',
    input: ShownInput,
    fields: SECTIONS.map((name): SettingField => ({
      name,
      label: `Show ${SHOWN_SECTIONS[name]}`,
      type: 'choice',
      choices: [
        { value: 'yes', label: 'yes' },
        { value: 'no', label: 'no' },
      ],
    })),
    values: ({ options: { shown = DEFAULT_SHOWN } }) =>
      Object.fromEntries(SECTIONS.map((name) => [name, shown[name] ? 'yes' : 'no'])),
    stands({ options: { shown = DEFAULT_SHOWN } }) {
      const names = SECTIONS.filter((name) => shown[name]).map((name) => SHOWN_SECTIONS[name]);
      return names.length === 0 ? 'the items and their dates alone' : sayList(names);
    },
    keep: option(
      'shown',
      (input: ShownInput) => Object.fromEntries(SECTIONS.map((name) => [name, input[name] === 'yes'])) as ShownSections,
    ),
  }),
};

type CourseSettingName = keyof typeof COURSE_SETTINGS;

/** A setting as its page shows it. */
export interface ShownSetting extends Pick<Setting<never>, 'title' | 'says' | 'fields'> {
  name: CourseSettingName;
  stands: string;
  values: Record<string, string>;
}

const declared = Object.entries(COURSE_SETTINGS) as [CourseSettingName, Setting<object>][];

/** What is set for a course that the viewer sees. @throws InvalidInput, NotFound */
export async function courseSettings(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
): Promise<{ course: Course; settings: ShownSetting[] }> {
  const { courseId } = (await openView(runtime, viewer, { course: code })).segment as { courseId: number };
  const course = await withRaw(runtime.db, (raw) => readCourse(raw, courseId));
  const settings = declared.map(([name, { title, says, fields, values, stands }]) => ({
    name,
    title,
    says,
    fields,
    values: values(course),
    stands: stands(course),
  }));
  return { course, settings };
}

/** Sets one thing of a course; all that was worked out by it is worked out anew. @throws InvalidInput, NotFound */
export async function saveCourseSetting(
  runtime: Runtime,
  viewer: Viewer,
  code: string,
  name: string,
  sent: Values,
): Promise<void> {
  const found = declared.find(([known]) => known === name)?.[1];
  if (!found) throw new NotFound('No such setting');
  const input = readInput(found.input, sent, runtime.zone);
  const courseId = await requireCourse(runtime, viewer, code);
  await writing(runtime.db, async (trx) => {
    const before = found.stands(await withRaw(trx, (raw) => readCourse(raw, courseId)));
    await found.keep(trx, courseId, input);
    const after = found.stands(await withRaw(trx, (raw) => readCourse(raw, courseId)));
    await withRaw(trx, (raw) => staleCourseWork(raw, [courseId]));
    await addAudit(trx, {
      at: runtime.clock.now(),
      staff_id: viewer.staffId || null,
      course_id: courseId,
      what: 'set a course',
      subject: `${code}: ${found.title}`,
      changes: before === after ? {} : { [name]: [before, after] },
    });
  });
}
