/** `lee check`: is the database whole, and is everything derived what it would be if made anew? */
import { dayOf } from '@/core/time/zone';
import { readingRaw } from '@/data/db';
import { compareDerived, learnersWithEvents } from '@/data/derived';
import { compareCounts } from '@/data/log-counts';
import { allGroups, storedReadings } from '@/data/drift';
import { readSetting } from '@/data/settings';
import { readGroup } from './recalculate';
import type { Runtime } from './runtime';

export interface CheckResult {
  learners: number;
  readings: number;
  /** One line for each thing that is wrong. */
  problems: string[];
}

/** Recomputes everything and compares. Reads only. */
export async function checkAll(runtime: Runtime): Promise<CheckResult> {
  const { db, zone, clock } = runtime;
  const readTo = Number((await readSetting(db, 'reading_day')) ?? dayOf(clock.now(), zone));
  return readingRaw(db, (raw) => {
    const problems: string[] = [];
    for (const { integrity_check: line } of raw.pragma('integrity_check') as { integrity_check: string }[]) {
      if (line !== 'ok') problems.push(`database: ${line}`);
    }
    for (const broken of raw.pragma('foreign_key_check') as { table: string; rowid: number; parent: string }[]) {
      problems.push(`${broken.table} ${broken.rowid} refers to a missing ${broken.parent}`);
    }
    const waiting = raw.prepare('SELECT count(*) FROM touched').pluck().get() as number;
    if (waiting > 0) problems.push(`${waiting} learners still wait to be derived`);
    const learners = learnersWithEvents(raw);
    for (const learnerId of learners) {
      for (const { table, stored, recomputed } of compareDerived(raw, learnerId, zone)) {
        problems.push(
          `${table} of learner ${learnerId}: ${stored} rows stored, ${recomputed} recomputed, and they differ`,
        );
      }
    }
    problems.push(...compareCounts(raw, zone));
    let readings = 0;
    for (const group of allGroups(raw)) {
      const last = { ...group, fromDay: readTo };
      const stored = new Map(storedReadings(raw, last).map((reading) => [reading.enrolmentId, reading]));
      const fresh = readGroup(raw, last, readTo, zone);
      readings += fresh.length;
      for (const { enrolmentId, score, band } of fresh) {
        const kept = stored.get(enrolmentId);
        if (!kept || kept.score !== score || kept.band !== band) {
          problems.push(`drift of enrolment ${enrolmentId}: ${kept?.score ?? 'none'} stored, ${score} recomputed`);
        }
      }
      if (stored.size !== fresh.length)
        problems.push(`drift readings of course ${group.courseId}: ${stored.size} stored, ${fresh.length} recomputed`);
    }
    return { learners: learners.length, readings, problems };
  });
}
