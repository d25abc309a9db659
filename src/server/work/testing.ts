/** What the tests of work share: a course of a page, a quiz and two sheets, in a data folder of its own. */
import { expect } from 'vitest';
import { checkAll } from '../check';
import { recalculate } from '../drift/recalculate';
import { bringIn, smallRuntime, type TestRuntime } from '../testing';

export const OUTLINE = `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points,category,weight,done_when,url,pass_mark
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D1,Stone,page,yes,,,,,,,50
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D2,Quiz,quiz,yes,2026-10-05T12:00:00Z,20,Quizzes,40,handed_in;score>=50%,https://campus.example/D2,50
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 2,D3,Sheet,assignment,yes,2026-10-12T12:00:00Z,100,Assignments,60,,,50
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 3,D4,Wall,assignment,yes,2026-12-12T12:00:00Z,100,Assignments,60,,,50
`;
const HEAD = 'learner_id,course,item_id,attempt,started_at,submitted_at,score,points,graded_at,grader,feedback';

/** A file of results from its lines. */
export const result = (...lines: string[]) => [HEAD, ...lines, ''].join('\n');
/** All rows of a list. */
export const ALL = { limit: '1000' };

export interface DryWork {
  runtime: TestRuntime;
  /** The stored number of a learner. */
  learner: (id: string) => number;
  pair: (learner: string, item: string) => readonly [learner: number, item: number];
  close: () => Promise<void>;
}

export async function openDryWork(): Promise<DryWork> {
  const runtime = await smallRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  const numbersOf = async (table: 'learner' | 'item') => {
    const rows = (await runtime.db(table).select('external_id', 'id')) as { external_id: string; id: number }[];
    return new Map(rows.map(({ external_id, id }) => [external_id, id]));
  };
  const [learners, items] = [await numbersOf('learner'), await numbersOf('item')];
  return {
    runtime,
    learner: (id) => learners.get(id)!,
    pair: (learner, item) => [learners.get(learner)!, items.get(item)!],
    async close() {
      await recalculate(runtime);
      // Whatever was done, what is kept is what the facts give.
      expect((await checkAll(runtime)).problems).toEqual([]);
      await runtime.close();
    },
  };
}
