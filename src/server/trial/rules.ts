/** Rules that a trial can replay, by their names. */
import {
  DEFAULT_SETTING,
  changesBetween,
  courseSettingOn,
  numbersOf,
  settingOn,
  type DriftSetting,
} from '@/core/drift/setting';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { byDrift, byWatch, quietFor, type Rule, type Seen } from '@/core/trial/cohort';
import { keptSettings } from '@/data/drift/settings';
import type { Viewer } from '@/data/scope';
import { SettingNumbers, readSettingInput } from '../drift/setting-input';
import { LEARNERS, learnerList } from '../people/learner-list';
import { InvalidInput } from '../request/input';
import { listParams, sentencesOf } from '../request/list';
import type { Runtime } from '../runtime';
import type { LoadedCohort } from './cohorts';

/** What a rule may be, in words. */
export const RULES =
  'watch, drift, quiet>=N, filter:QUERY; either of the first two with :default, :N for a setting, or :NUMBER=N;… for numbers of its own';

const NAME =
  /^(?:(watch|drift)(?::(default|\d{1,9}|[a-z_]+=[\d.]+(?:;[a-z_]+=[\d.]+)*))?|quiet>=(\d{1,3})|filter:(.{1,1000}))$/;

export function isRule(name: string): boolean {
  return NAME.test(name);
}

/** What a filter goes by that is not known of a past day, or that nobody is to be found by. */
const NOT_OF_A_PAST_DAY: Readonly<Record<string, string>> = {
  q: 'goes by a name',
  band: 'goes by drift, which is a rule of its own',
  overdue: 'goes by work overdue, which is known of today alone',
  opened_since: 'goes by a time that stands still',
  first_opened_since: 'goes by a time that stands still',
  opened_from: 'goes by a time that stands still',
  opened_to: 'goes by a time that stands still',
};
/** What narrows a list to a part: a trial's courses are chosen beside it. */
const PART_OF_LIST = [
  'in',
  'course',
  'group',
  'organisation',
  'status',
  'as_of',
  'columns',
  'limit',
  'cursor',
  'format',
];
const SORTS = ['last_access', 'days_quiet', 'minutes_online', 'enrolled', 'last_contact'];

/** A filter of the list of learners as it can be asked of a past week. @throws InvalidInput naming what cannot */
function filterOf(query: string): Record<string, string> {
  const given = listParams(LEARNERS, Object.fromEntries(new URLSearchParams(query))) as Record<string, string>;
  for (const name of PART_OF_LIST) delete given[name];
  const unknown = Object.keys(given).find((name) => NOT_OF_A_PAST_DAY[name]);
  if (unknown) throw new InvalidInput([{ field: 'rule', message: NOT_OF_A_PAST_DAY[unknown] }]);
  if (!SORTS.includes((given.sort ?? '').replace('-', ''))) given.sort = '-days_quiet';
  if (Object.keys(given).length < 2) throw new InvalidInput([{ field: 'rule', message: 'filters nobody out' }]);
  return given;
}

/** Whoever the list of learners would have held at each week's end, in its order. */
async function byFilter(
  runtime: Runtime,
  viewer: Viewer,
  filter: Record<string, string>,
  cohorts: readonly LoadedCohort[],
  step: () => Promise<void>,
): Promise<Rule> {
  const ranks = new Map<Seen, number>();
  for (const { code, learnerIds, weeks } of cohorts) {
    for (const { day, seen } of weeks) {
      const asked = { ...filter, course: code, as_of: dateOfDay(day), format: 'csv' };
      const { rows } = await learnerList(runtime, viewer, asked);
      const order = new Map(rows.map(({ id }, index) => [id, index]));
      for (const one of seen) {
        const rank = order.get(learnerIds[one.place]);
        if (rank !== undefined) ranks.set(one, -rank);
      }
      await step();
    }
  }
  return (seen) => ranks.get(seen) ?? null;
}

/** The default setting with some numbers of its own. @throws InvalidInput */
function settingOf(text: string): DriftSetting {
  const usual = numbersOf(DEFAULT_SETTING);
  const numbersByName = Object.fromEntries(text.split(';').map((pair) => pair.split('=')));
  const unknown = Object.keys(numbersByName).find((name) => !Object.hasOwn(usual, name));
  if (unknown !== undefined)
    throw new InvalidInput([{ field: 'rule', message: `names ${unknown}, which is no number of a setting` }]);
  try {
    return readSettingInput(SettingNumbers, { ...usual, ...numbersByName }).setting;
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    const [{ field, message }] = error.errors;
    throw new InvalidInput([{ field: 'rule', message: `has ${field}, which ${message}` }]);
  }
}

/** The setting that a rule's name means. @throws InvalidInput */
async function settingNamed({ db, clock, zone }: Runtime, name: string | undefined): Promise<DriftSetting> {
  if (name === 'default') return DEFAULT_SETTING;
  if (name?.includes('=')) return settingOf(name);
  const kept = await keptSettings(db);
  const today = dayOf(clock.now(), zone);
  if (name === undefined) return settingOn(kept, today);
  const found = kept.find(({ id }) => id === Number(name));
  if (!found) throw new InvalidInput([{ field: 'rule', message: `names ${name}, which is no setting that was kept` }]);
  return found.setting ?? (found.courseId === null ? DEFAULT_SETTING : courseSettingOn(kept, found.courseId, today));
}

/** The rules of some names. @throws InvalidInput */
export async function openRules(
  runtime: Runtime,
  viewer: Viewer,
  names: readonly string[],
  cohorts: readonly LoadedCohort[],
  step: () => Promise<void>,
): Promise<Rule[]> {
  const rules: Rule[] = [];
  for (const name of names) {
    const [, base, setting, days, query] = NAME.exec(name)!;
    if (days !== undefined) rules.push(quietFor(Number(days)));
    else if (query !== undefined) rules.push(await byFilter(runtime, viewer, filterOf(query), cohorts, step));
    else {
      const read = await settingNamed(runtime, setting);
      rules.push(base === 'watch' ? byWatch(read) : byDrift(read));
    }
  }
  return rules;
}

/** Checks that rules can be asked for, without reading anything of the past. @throws InvalidInput */
export async function checkRules(runtime: Runtime, viewer: Viewer, names: readonly string[]): Promise<void> {
  for (const name of names) {
    const [, , setting, , query] = NAME.exec(name)!;
    if (query === undefined) await settingNamed(runtime, setting);
    else await checkFilter(runtime, viewer, filterOf(query));
  }
}

/** Asks the list for one learner: it says what is wrong with its filters. @throws InvalidInput */
async function checkFilter(runtime: Runtime, viewer: Viewer, filter: Record<string, string>): Promise<void> {
  try {
    await learnerList(runtime, viewer, { ...filter, limit: '1' });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    const [{ field, message }] = error.errors;
    throw new InvalidInput([{ field: 'rule', message: `filters by ${field}, which ${message}` }]);
  }
}

/** Numbers of its own that are named. */
const CHANGES_SAID = 3;

/**
 * A rule in words.
 *
 * @example sayRule('quiet>=14') // 'quiet 14 days or more, or never'
 */
export function sayRule(name: string): string {
  const [, base, setting, days, query] = NAME.exec(name) ?? [];
  if (days !== undefined) return `quiet ${days} ${days === '1' ? 'day' : 'days'} or more, or never`;
  if (query !== undefined) {
    const said = sentencesOf(LEARNERS, Object.fromEntries(new URLSearchParams(query)));
    return said.map(({ says }) => says.toLowerCase()).join(', ') || 'a filter';
  }
  const what = base === 'watch' ? 'the Watch' : 'drift alone';
  if (setting === undefined) return what;
  if (setting.includes('=')) {
    const changes = changesBetween(DEFAULT_SETTING, settingOf(setting));
    const rest = changes.length > CHANGES_SAID ? `, and ${changes.length - CHANGES_SAID} more` : '';
    return `${what} with ${changes.slice(0, CHANGES_SAID).join(', ') || 'the default numbers'}${rest}`;
  }
  return setting === 'default' ? `${what}, default weights` : `${what}, setting ${setting}`;
}
