/** `lee check`: is the database whole, and is everything derived what it would be if made anew? */
import { dateOfDay, dayOf } from '@/core/time/zone';
import { countRows, withRaw, type RawConnection } from '@/data/db';
import { compareDerived, learnersToCheck, sumPackedDays } from '@/data/access/derived';
import { placesTwice } from '@/data/courses/items';
import { compareProgress } from '@/data/completion/enrolment-progress';
import { checkTable, tablesOf } from '@/data/integrity';
import { compareCounts } from '@/data/access/log-counts';
import { allGroups, storedReadings } from '@/data/drift/drift';
import { comparePresence } from '@/data/sessions/presence';
import { heldInSpite } from '@/data/sessions/sessions';
import { readNumber } from '@/data/settings';
import { staleGroup, type Group } from '@/data/drift/stale';
import { readGroup } from './drift/portions';
import { archiveProblems } from './archive/files';
import type { Runtime } from './runtime';

export interface CheckResult {
  learners: number;
  readings: number;
  /** What is not compared, since it waits to be made anew: that happens by itself. */
  waiting: { learners: number; enrolments: number };
  /** One line for each thing that is wrong. */
  problems: string[];
}

/** Completion compared at a time. */
const ENROLMENTS_A_STEP = 500;

/** Every reading of a group, from its first day on, beside what the facts give. */
function compareReadings(
  raw: RawConnection,
  group: Group,
  { readTo, today, zone }: { readTo: number; today: number; zone: string },
) {
  const stored = storedReadings(raw, { ...group, fromDay: -1 });
  const fromDay = stored.reduce((first, { day }) => Math.min(first, day), readTo);
  // A day that has begun may have been read of this group, and not yet of all.
  const toDay = stored.some(({ day }) => day === today) ? today : readTo;
  const fresh = readGroup(raw, { ...group, fromDay }, toDay, zone);
  const kept = new Map(stored.map((reading) => [`${reading.enrolmentId}/${reading.day}`, reading]));
  const differences = fresh.flatMap(({ enrolmentId, day, score, band }) => {
    const keptReading = kept.get(`${enrolmentId}/${day}`);
    if (keptReading && keptReading.score === score && keptReading.band === band) return [];
    return [
      `drift of enrolment ${enrolmentId} on ${dateOfDay(day)}: ${keptReading?.score ?? 'none'} stored, ${score} recomputed`,
    ];
  });
  if (stored.length !== fresh.length)
    differences.push(`drift readings of course ${group.courseId}: ${stored.length} stored, ${fresh.length} recomputed`);
  return { count: fresh.length, differences };
}

/** Kept completion that are not what the facts give, a line for each. */
function progressProblems(raw: RawConnection, zone: string, now: number): string[] {
  const problems: string[] = [];
  for (let after: number | null = 0; after !== null;) {
    const { next, differ } = compareProgress(raw, { zone, now }, after, ENROLMENTS_A_STEP);
    for (const { enrolmentId, field } of differ)
      problems.push(`progress of enrolment ${enrolmentId}: ${field} differs`);
    after = next;
  }
  return problems;
}

interface BrokenReference {
  table: string;
  rowid: number;
  parent: string;
}

/** Recomputes everything and compares. Reads only; damaged pages are listed, and the rest is checked all the same. */
export async function checkAll(runtime: Runtime): Promise<CheckResult> {
  const { db, zone, clock } = runtime;
  const ofArchives = await archiveProblems(runtime);
  // One snapshot of everything: what others store meanwhile is no difference.
  return withRaw(db, (raw) =>
    raw.transaction(() => {
      const problems = [...ofArchives];
      /** Does a part of the check; one that meets damaged pages is told of, and the others go on. */
      const part = <T>(what: string, work: () => T, otherwise: T): T => {
        try {
          return work();
        } catch (error) {
          problems.push(
            `${what} could not be checked: ${(error as { code?: string }).code ?? (error as Error).message}`,
          );
          return otherwise;
        }
      };
      for (const table of tablesOf(raw)) {
        for (const line of checkTable(raw, table)) problems.push(`${table}: ${line}`);
      }
      for (const broken of part('references', () => raw.pragma('foreign_key_check') as BrokenReference[], [])) {
        problems.push(`${broken.table} ${broken.rowid} refers to a missing ${broken.parent}`);
      }
      const learners = part('learners', () => learnersToCheck(raw), []);
      const packed = part('packed days', () => sumPackedDays(raw), new Map());
      for (const learnerId of learners) {
        const differences = part(`learner ${learnerId}`, () => compareDerived(raw, learnerId, zone, packed), []);
        for (const { table, stored, recomputed } of differences) {
          problems.push(
            `${table} of learner ${learnerId}: ${stored} rows stored, ${recomputed} recomputed, and they differ`,
          );
        }
      }
      problems.push(...part('counts', () => compareCounts(raw, zone), []));
      problems.push(...part('presence', () => comparePresence(raw), []));
      for (const { course, position } of part('items', () => placesTwice(raw), [])) {
        problems.push(`course ${course} has two items of one outline at its place ${position}`);
      }
      for (const session of part('sessions', () => heldInSpite(raw), [])) {
        problems.push(`session ${session} stands as held, and a newer version of its calendar left it out`);
      }
      problems.push(...part('completion', () => progressProblems(raw, zone, clock.now()), []));
      const today = dayOf(clock.now(), zone);
      const days = { readTo: readNumber(raw, 'reading_day') ?? today, today, zone };
      let readings = 0;
      for (const group of part('groups', () => allGroups(raw), [])) {
        const nothing = { count: 0, differences: [] };
        const compare = () => (staleGroup(raw, group) ? nothing : compareReadings(raw, group, days));
        const { count, differences } = part(`drift of course ${group.courseId}`, compare, nothing);
        readings += count;
        problems.push(...differences);
      }
      const waiting = {
        learners: countRows(raw, 'touched'),
        enrolments: countRows(raw, 'drift_stale'),
      };
      return { learners: learners.length, readings, waiting, problems };
    })(),
  );
}
