/** What became of a session's record that somebody who takes its roll has brought in. */
import type { Viewer } from '@/data/scope';
import { firstRejects, requireRun, showRun } from '../imports/show';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import { requireRoll } from './rights';

const REJECTS = 5;

export type RecordState = ReturnType<typeof showRun> & {
  /** The first rows that were not taken: line, field and reason. */
  rejects: string[][];
};

/** @throws NotFound for an import of anything else */
export async function recordState(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  importId: string,
): Promise<RecordState> {
  const session = await requireRoll(runtime, viewer, sessionId);
  const run = await requireRun(runtime, importId);
  if (run.kind !== 'presence' || run.session !== session.session_id) throw new NotFound('No such import');
  // The rows themselves may hold any name.
  const rejects = viewer.standInKey === null ? await firstRejects(runtime, run, REJECTS) : [];
  return { ...showRun(run), rejects: rejects.slice(1).map((row) => row.slice(0, 3)) };
}
