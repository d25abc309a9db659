/** What somebody looks at: their scope, a part of it, and the day of the readings. */
import { dayOf } from '@/core/time/zone';
import { findLens } from '@/data/courses';
import type { View } from '@/data/learners';
import type { Viewer } from '@/data/scope';
import { readSetting } from '@/data/settings';
import { NotFound } from './input';
import type { Runtime } from './runtime';

export interface LensNames {
  course?: string;
  group?: string;
  organisation?: string;
}

/** The view for a viewer, cut to a course, group or organisation. @throws NotFound */
export async function openView(runtime: Runtime, viewer: Viewer, names: LensNames = {}): Promise<View> {
  const lens = await findLens(runtime.db, names);
  if (!lens) throw new NotFound('No such course, group or organisation');
  const stored = await readSetting(runtime.db, 'reading_day');
  return { viewer, lens, readingDay: stored === null ? dayOf(runtime.clock.now(), runtime.zone) : Number(stored) };
}

/** The lens names behind `course:DRY`, `group:DRY/A` or `organisation:Name`. */
export function lensNames(key: string | undefined): LensNames {
  if (!key) return {};
  const at = key.indexOf(':');
  const [kind, name] = [key.slice(0, at), key.slice(at + 1)];
  return kind === 'course' || kind === 'group' || kind === 'organisation' ? { [kind]: name } : {};
}
