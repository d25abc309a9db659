/** What drift is read by: set by a lead, for the programme or for a course, tried before it is kept, and kept with its words. */
import { IsInt, IsNotEmpty, IsOptional, MaxLength, Min } from 'class-validator';
import {
  DEFAULT_SETTING,
  changesBetween,
  numbersChanged,
  courseSettingOn,
  settingOn,
  type DriftSetting,
  type KeptSetting,
} from '@/core/drift/setting';
import { sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import { addSetting, keptSettings, settingHistory, type SettingEntry } from '@/data/drift/settings';
import { OF_ALL, OF_COURSE, noteStaleIn } from '@/data/drift/stale';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { SettingInput, readSettingInput } from './setting-input';
import { courseIdOf } from '@/data/courses/courses';

/** The id of the course that is set, null for the programme. @throws InvalidInput */
export async function courseToSet(db: Db, code: string | undefined): Promise<number | null> {
  if (code === undefined) return null;
  const courseId = await courseIdOf(db, code);
  if (courseId === null)
    throw new InvalidInput([{ field: 'course', message: `is not known: there is no course ${code}` }]);
  return courseId;
}

/** The setting that holds on a day for the programme, or for a course. */
export function heldSetting(kept: readonly KeptSetting[], courseId: number | null, day: number): DriftSetting {
  return courseId === null ? settingOn(kept, day) : courseSettingOn(kept, courseId, day);
}

export interface SettingPage {
  /** Code of the course that is set; null for the programme. */
  course: string | null;
  setting: DriftSetting;
  /** Has the course, or the programme, anything of its own? */
  isOwn: boolean;
  history: SettingEntry[];
}

/** What holds now, and everything that held before. @throws NotFound, InvalidInput */
export async function settingPage(
  { db, clock, zone }: Runtime,
  viewer: Viewer,
  course: string | undefined,
): Promise<SettingPage> {
  requireLead(viewer);
  const courseId = await courseToSet(db, course);
  const [kept, history] = await Promise.all([keptSettings(db), settingHistory(db, viewer, courseId)]);
  return {
    course: course ?? null,
    setting: heldSetting(kept, courseId, dayOf(clock.now(), zone)),
    isOwn: (history[0]?.setting ?? null) !== null,
    history,
  };
}

interface Keeping {
  courseId: number | null;
  course: string | undefined;
  setting: DriftSetting | null;
  words: string;
}

/** Keeps a setting from today on, in the caller's transaction, and has what it touches read anew. */
async function keep(
  { clock, zone }: Pick<Runtime, 'clock' | 'zone'>,
  trx: Db,
  viewer: Viewer,
  { courseId, course, setting, words }: Keeping,
): Promise<string[]> {
  const at = clock.now();
  const today = dayOf(at, zone);
  const before = await keptSettings(trx);
  await addSetting(trx, { course_id: courseId, from_day: today, at, staff_id: viewer.staffId || null, words, setting });
  const after = await keptSettings(trx);
  const [was, is] = [before, after].map((kept) => heldSetting(kept, courseId, today));
  const next = courseId === null ? is : { ...is, parts: was.parts };
  const changes = numbersChanged(was, next);
  // A course may begin to have its own by what the programme has: later changes of that pass it by.
  if (changes.length === 0 && courseId === null)
    throw new InvalidInput([{ field: 'words', message: 'are not enough: nothing is other than it was' }]);
  // Today is read anew; the days before stay as they were read.
  if (courseId === null) await noteStaleIn(trx, OF_ALL, { fromDay: today });
  else await noteStaleIn(trx, OF_COURSE, { courseId, fromDay: today });
  await addAudit(trx, {
    at,
    staff_id: viewer.staffId || null,
    course_id: courseId,
    what: 'set the weights of drift',
    subject: `${course ?? 'programme'}: ${words}`,
    changes: Object.fromEntries(changes.map((change) => [change.title, [change.before, change.after]])),
  });
  return changesBetween(was, next);
}

/** Keeps a setting, for the programme or for a course of its own. Returns what is other than before. @throws InvalidInput, NotFound */
export async function saveSetting(runtime: Runtime, viewer: Viewer, values: Values): Promise<string[]> {
  requireLead(viewer);
  const { given, setting } = readSettingInput(SettingInput, values);
  const { course, words } = given;
  return writing(runtime.db, async (trx) => {
    const courseId = await courseToSet(trx, course);
    return keep(runtime, trx, viewer, { courseId, course, setting, words });
  });
}

export class BackInput {
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) course?: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(500, { message: 'is longer than 500 characters' }) words!: string;
}

class BackTo {
  /** Of the setting that holds again; 0 for the defaults, or for what the programme has. */
  @IsInt({ message: 'is no setting' }) @Min(0, { message: 'is no setting' }) id!: number;
}

/** Goes back to an earlier setting: kept anew, with who, when and why. @throws InvalidInput, NotFound */
export async function backToSetting(
  runtime: Runtime,
  viewer: Viewer,
  settingId: number,
  values: Values,
): Promise<string[]> {
  requireLead(viewer);
  const { course, words } = readInput(BackInput, values);
  const { id } = readInput(BackTo, { id: settingId });
  return writing(runtime.db, async (trx) => {
    const courseId = await courseToSet(trx, course);
    const plain: SettingEntry = {
      id: 0,
      at: 0,
      by: null,
      words: '',
      setting: courseId === null ? DEFAULT_SETTING : null,
    };
    const known = [...(await settingHistory(trx, viewer, courseId)), plain];
    const earlier = known.find((one) => one.id === id);
    if (!earlier) throw new NotFound('No such setting');
    const from = earlier.id === 0 ? 'how it came' : sayInstant(earlier.at, runtime.zone);
    return keep(runtime, trx, viewer, {
      courseId,
      course,
      setting: earlier.setting,
      words: `${words} (back to ${from})`,
    });
  });
}
