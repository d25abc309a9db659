/** An institution for measuring: many learners in courses of 50, and their log, by time. */
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { finished } from 'node:stream/promises';
import { seeded } from '../demo/random';

const ITEMS = 60;
const COURSE = 50;
export const ACTIONS = ['opened', 'viewed', 'played', 'progressed', 'saved', 'submitted', 'posted', 'signed_in'];
export const NOW = Date.UTC(2026, 10, 24, 9, 10);
const DAY = 86_400_000;

function course(learner: number): number {
  return Math.floor(learner / COURSE);
}

export function outlineFile(learners: number): string {
  const lines = ['course,course_title,starts_on,ends_on,unit,item_id,item,kind,required'];
  for (let c = 0; c < Math.ceil(learners / COURSE); c += 1) {
    for (let i = 0; i < ITEMS; i += 1) {
      lines.push(`C${c},Course ${c},2026-09-14,2026-12-20,Week ${1 + Math.floor(i / 6)},C${c}-${i},Item ${i},page,yes`);
    }
  }
  return `${lines.join('\n')}\n`;
}

export function rosterFile(learners: number): string {
  const lines = ['learner_id,given_name,family_name,email,organisation,course,group,enrolled_on'];
  for (let l = 0; l < learners; l += 1) {
    lines.push(
      `B${l},Given${l},Family${l % 977},b${l}@learner.example,Partner ${l % 12},C${course(l)},${l % 2 ? 'A' : 'B'},2026-09-14`,
    );
  }
  return `${lines.join('\n')}\n`;
}

export interface BenchRow {
  at: number;
  learner: number;
  item: number | null;
  action: number;
  address: string;
}

/**
 * Rows in time order over ten weeks. Learners come for visits of about ten events some minutes
 * apart and stay with an item for a few of them: the same shares of visits, days and items to
 * events as the demo's simulated learners have.
 */
export function* logRows(learners: number, rows: number): Generator<BenchRow> {
  const random = seeded(7);
  const step = (70 * DAY) / rows;
  const seats = Math.max(2, Math.round((rows / 70 / 24 / 60) * 3));
  const inside = Array.from({ length: seats }, () => ({ learner: random.int(0, learners - 1), item: 0 }));
  for (let i = 0; i < rows; i += 1) {
    const seat = random.int(0, seats - 1);
    if (random.chance(0.09)) inside[seat].learner = random.int(0, learners - 1);
    if (random.chance(0.3)) inside[seat].item = random.int(0, ITEMS - 1);
    const { learner, item } = inside[seat];
    const action = random.int(0, ACTIONS.length - 1);
    yield {
      at: Math.floor((NOW - 70 * DAY + i * step) / 1000) * 1000,
      learner,
      item: ACTIONS[action] === 'signed_in' ? null : item,
      action,
      address: `198.51.100.${learner % 250}`,
    };
  }
}

export async function writeLog(path: string, learners: number, rows: number): Promise<void> {
  const file = createWriteStream(path);
  let lines = 'time,learner_id,course,item_id,action,address,event_id\n';
  for (const row of logRows(learners, rows)) {
    const c = course(row.learner);
    const item = row.item === null ? '' : `C${c}-${row.item}`;
    lines += `${new Date(row.at).toISOString().slice(0, 19)}Z,B${row.learner},C${c},${item},${ACTIONS[row.action]},${row.address},\n`;
    if (lines.length > 1_000_000) {
      if (!file.write(lines)) await once(file, 'drain');
      lines = '';
    }
  }
  file.end(lines);
  await finished(file);
}
