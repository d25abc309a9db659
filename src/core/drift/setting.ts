/** What a programme or a course has set drift to be read by, and how the Watch goes by it. */
import { DEFAULT_EDGES, type BandEdges } from './bands';
import { FACTORS } from './model';
import { DEFAULT_PART_RULES, type PartRules } from './order';
import type { Model, Weight } from './types';

export interface DriftSetting {
  /** Of every factor, by its name. */
  weights: Readonly<Record<string, Weight>>;
  edges: BandEdges;
  parts: PartRules;
}

/** Where nobody has set anything else. */
export const DEFAULT_SETTING: DriftSetting = {
  weights: Object.fromEntries(FACTORS.map(({ name, weight }) => [name, weight])),
  edges: DEFAULT_EDGES,
  parts: DEFAULT_PART_RULES,
};

/** A setting that was kept, with what has come since as it is by default. */
export function wholeSetting(kept: Partial<DriftSetting>): DriftSetting {
  return {
    weights: { ...DEFAULT_SETTING.weights, ...kept.weights },
    edges: { ...DEFAULT_EDGES, ...kept.edges },
    parts: { ...DEFAULT_PART_RULES, ...kept.parts },
  };
}

/** The model that a setting reads by. */
export function modelOf({ weights, edges }: DriftSetting): Model {
  return { factors: FACTORS, weights, edges };
}

/** A setting that was kept, in the order in which they were. */
export interface KeptSetting {
  id: number;
  /** Null for the programme's. */
  courseId: number | null;
  /** The first day that is read by it. */
  fromDay: number;
  /** Null where a course goes by the programme's again. */
  setting: DriftSetting | null;
}

const heldOn = (kept: readonly KeptSetting[], courseId: number | null, day: number) =>
  kept.findLast((one) => one.courseId === courseId && one.fromDay <= day);

/** The programme's setting on a day, whatever its courses have of their own. */
export function settingOn(kept: readonly KeptSetting[], day: number): DriftSetting {
  return heldOn(kept, null, day)?.setting ?? DEFAULT_SETTING;
}

/** The setting that a course's readings of a day are made by: its own, else the programme's. */
export function courseSettingOn(kept: readonly KeptSetting[], courseId: number, day: number): DriftSetting {
  return heldOn(kept, courseId, day)?.setting ?? settingOn(kept, day);
}

/** Was a course read by another model on a day than it is today? Readings stay as they were made. */
export function readOtherwise(kept: readonly KeptSetting[], courseId: number, day: number, today: number): boolean {
  const text = (on: number) => {
    const { weights, edges } = courseSettingOn(kept, courseId, on);
    return JSON.stringify([weights, edges]);
  };
  return kept.some(({ fromDay }) => fromDay > day && fromDay <= today) && text(day) !== text(today);
}

/**
 * The day on which what holds was changed, where it is other on a day than on one before: for a course, or for the programme
 * and all that its courses have of their own. Null where it is the same, also after going back.
 */
export function changedBetween(
  kept: readonly KeptSetting[],
  courseId: number | undefined,
  before: number,
  day: number,
): number | null {
  const courses = courseId === undefined ? new Set(kept.map((one) => one.courseId)) : [null, courseId];
  const heldBy = (course: number | null, on: number) =>
    JSON.stringify(course === null ? settingOn(kept, on) : courseSettingOn(kept, course, on));
  const changed = [...courses].filter((course) => heldBy(course, before) !== heldBy(course, day));
  const last = kept.findLast((one) => one.fromDay > before && one.fromDay <= day && changed.includes(one.courseId));
  return last?.fromDay ?? null;
}

/** What a setting's numbers are called, in the order in which they are asked for. */
export interface SettingNumber {
  name: string;
  title: string;
  of: (setting: DriftSetting) => number;
}

/** Every number of a setting: two weights of each factor, the edges, and what the Watch goes by. */
export const SETTING_NUMBERS: readonly SettingNumber[] = [
  ...FACTORS.flatMap(({ name, title }): SettingNumber[] => [
    { name: `${name}_early`, title: `${title}, early`, of: ({ weights }) => weights[name].early },
    { name: `${name}_late`, title: `${title}, late`, of: ({ weights }) => weights[name].late },
  ]),
  { name: 'slipping', title: 'Slipping from', of: ({ edges }) => edges.slipping },
  { name: 'adrift', title: 'Adrift from', of: ({ edges }) => edges.adrift },
  { name: 'away', title: 'Away after days', of: ({ parts }) => parts.away },
  { name: 'contacted', title: 'Contacted for days', of: ({ parts }) => parts.contacted },
];

/** A setting's numbers by their names, as a form has them. */
export function numbersOf(setting: DriftSetting): Record<string, string> {
  return Object.fromEntries(SETTING_NUMBERS.map(({ name, of }) => [name, String(of(setting))]));
}

/** A number that is other in one setting than in another. */
interface SettingChange {
  title: string;
  before: number;
  after: number;
}

/** The numbers that are other. */
export function numbersChanged(before: DriftSetting, after: DriftSetting): SettingChange[] {
  return SETTING_NUMBERS.flatMap(({ title, of }) =>
    of(before) === of(after) ? [] : [{ title, before: of(before), after: of(after) }],
  );
}

/**
 * What is other in a setting than in another one, in words.
 *
 * @example changesBetween(before, after) // ['Quiet, early 5 → 10', 'Adrift from 60 → 55']
 */
export function changesBetween(before: DriftSetting, after: DriftSetting): string[] {
  return numbersChanged(before, after).map((one) => `${one.title} ${one.before} → ${one.after}`);
}
