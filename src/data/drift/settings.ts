/** What drift is read by, as the programme and its courses have set it. */
import { courseSettingOn, modelOf, wholeSetting, type DriftSetting, type KeptSetting } from '@/core/drift/setting';
import type { Model } from '@/core/drift/types';
import { prepared, type Db, type RawConnection } from '../db';
import { freeText, staffName } from '../person';
import type { Viewer } from '../scope';

interface SettingRow {
  id: number;
  course_id: number | null;
  from_day: number;
  setting: string | null;
}

const settingOf = (setting: string | null): DriftSetting | null =>
  setting === null ? null : wholeSetting(JSON.parse(setting) as Partial<DriftSetting>);

const keptSetting = ({ id, course_id, from_day, setting }: SettingRow): KeptSetting => ({
  id,
  courseId: course_id,
  fromDay: from_day,
  setting: settingOf(setting),
});

/** Every setting that was ever kept, in order: there are few. */
export async function keptSettings(db: Db): Promise<KeptSetting[]> {
  return (await db('drift_setting').orderBy('id').select('id', 'course_id', 'from_day', 'setting')).map(keptSetting);
}

/** The same inside of a reading. */
export function readSettings(raw: RawConnection): KeptSetting[] {
  const rows = prepared(raw, 'SELECT id, course_id, from_day, setting FROM drift_setting ORDER BY id').all();
  return (rows as SettingRow[]).map(keptSetting);
}

/** The model that a course's readings are made by, day by day. */
export function courseModels(kept: readonly KeptSetting[], courseId: number): (day: number) => Model {
  const models = new Map<DriftSetting, Model>();
  return (day) => {
    const setting = courseSettingOn(kept, courseId, day);
    const model = models.get(setting) ?? modelOf(setting);
    models.set(setting, model);
    return model;
  };
}

export interface NewSetting {
  course_id: number | null;
  from_day: number;
  at: number;
  staff_id: number | null;
  words: string;
  /** Null for a course that goes by the programme's again. */
  setting: DriftSetting | null;
}

export async function addSetting(trx: Db, { setting, ...row }: NewSetting): Promise<void> {
  await trx('drift_setting').insert({ ...row, setting: setting && JSON.stringify(setting) });
}

/** A setting with who kept it, when and why. */
export interface SettingEntry {
  id: number;
  at: number;
  by: string | null;
  words: string;
  /** Null where a course went back to the programme's. */
  setting: DriftSetting | null;
}

/** Settings of the programme or of a course, the last one first. */
export async function settingHistory(db: Db, viewer: Viewer, courseId: number | null): Promise<SettingEntry[]> {
  const rows = await db('drift_setting as s')
    .leftJoin('staff', 'staff.id', 's.staff_id')
    .whereRaw('s.course_id IS ?', [courseId])
    .orderBy('s.id', 'desc')
    .select(
      's.id',
      's.at',
      's.setting',
      db.raw(`${freeText(viewer, 's.words')} AS words`),
      db.raw(`${staffName(viewer)} AS "by"`),
    );
  return rows.map(({ setting, ...row }: Omit<SettingEntry, 'setting'> & { setting: string | null }) => ({
    ...row,
    setting: settingOf(setting),
  }));
}
