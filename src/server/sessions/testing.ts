/** What the tests of sessions share: the little institution with a session or two. */
import type { Viewer } from '@/data/scope';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';

/** Now is Tue 24 Nov 2026, 09:10 in Dublin. */
export const SESSIONS_FILE = `course,group,session_id,title,starts_at,ends_at,mode,place,cancelled
DRY,A,DRY-A-1,Week 1,2026-10-01T18:30,2026-10-01T19:45,online,https://meet.example/a,no
DRY,A,DRY-A-2,Week 2,2026-11-17T18:30,2026-11-17T20:00,online,,no
DRY,A,DRY-A-3,Week 3,2026-11-24T09:00,2026-11-24T10:00,online,,no
DRY,,DRY-ALL,Workshop,2026-11-28T09:30,2026-11-28T12:00,in_person,Shed 4,no
NET,A,NET-A-1,Knots,2026-11-20T18:30,2026-11-20T19:30,online,,no
`;

export interface Cast {
  runtime: TestRuntime;
  lead: Viewer;
  /** Of DRY/A. */
  mentor: Viewer;
  /** Of DRY. */
  instructor: Viewer;
  /** Of Norrick. */
  coordinator: Viewer;
  /** Of learner L3 alone. */
  one: Viewer;
}

export async function openCast(): Promise<Cast> {
  const runtime = await smallRuntime();
  await bringIn(runtime, 'sessions', SESSIONS_FILE);
  const [lead, mentor, instructor, coordinator, one] = await Promise.all(
    ['lead@staff', 'mentor@staff', 'instructor@staff', 'norrick@partner', 'one@staff'].map((name) =>
      viewerByEmail(runtime, `${name}.example`),
    ),
  );
  return { runtime, lead, mentor, instructor, coordinator, one };
}
