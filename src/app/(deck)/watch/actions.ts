'use server';

import { setReach } from '@/server/drift/own-watch';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { lensNames, openView } from '@/server/request/view';
import { allMatching, readWatchFilter } from '@/server/drift/watch';
import { trying, type Result } from '../../_deck/trying';

export async function keepReach(reach: string): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => setReach(await runtime(), viewer, { reach }));
}

/** Ids of everybody who matches the list's filter, for an action on all of them. */
export async function everybodyMatching(query: string): Promise<number[]> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const params = Object.fromEntries(new URLSearchParams(String(query)));
  const view = await openView(opened, viewer, lensNames(params.in), params.as_of);
  return allMatching(opened, view, readWatchFilter(params));
}
