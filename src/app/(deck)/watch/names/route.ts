import { asProblem, problem } from '@/server/api';
import { runtime } from '@/server/runtime';
import { currentViewer } from '@/server/viewer';
import { lensNames, openView } from '@/server/view';
import { watchNames } from '@/server/watch';

/** Names of the dots on the Shoreline, for the part of the caseload looked at. */
export async function GET(request: Request): Promise<Response> {
  const opened = await runtime();
  try {
    const viewer = await currentViewer();
    if (!viewer) return problem(401, 'Not signed in', 'Sign in again.');
    const part = new URL(request.url).searchParams.get('in') ?? undefined;
    return Response.json(await watchNames(opened, await openView(opened, viewer, lensNames(part))));
  } catch (error) {
    return asProblem(opened, error);
  }
}
