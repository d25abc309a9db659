'use server';

import * as ownWatch from '@/server/drift/own-watch';
import * as parts from '@/server/drift/part-actions';
import { allMatching, readWatchFilter } from '@/server/drift/watch';
import * as roster from '@/server/people/roster';
import { defineAction, form, text, wholes } from '@/server/request/action';
import { wholeNumbers, type FormOf } from '@/server/request/input';
import { openDriftView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';
import { requireViewer } from '@/server/request/viewer';
import { runtime, type Runtime } from '@/server/runtime';
import type { Viewer } from '@/data/scope';

export const saveCapacity = defineAction({
  takes: [text],
  run: (runtime, viewer, capacity) => ownWatch.setCapacity(runtime, viewer, { capacity }),
});

/** The view of a list's address. */
async function viewAt(runtime: Runtime, viewer: Viewer, query: string) {
  const params = Object.fromEntries(new URLSearchParams(String(query)));
  return { params, view: await openDriftView(runtime, viewer, segmentNames(params.in), params.as_of) };
}

/** Ids of everybody who matches the list's filter, for an action on all of them. */
export async function everybodyMatching(query: string): Promise<number[]> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const { params, view } = await viewAt(opened, viewer, query);
  return allMatching(opened, view, readWatchFilter(params));
}

/** Colleagues who see all of these learners too. */
export async function colleaguesFor(
  query: string,
  learnerIds: number[],
): Promise<{ id: number; name: string; role: string }[]> {
  const viewer = await requireViewer();
  const opened = await runtime();
  return parts.whoTakes(opened, (await viewAt(opened, viewer, query)).view, wholeNumbers(learnerIds));
}

export const handOverLearners = defineAction({
  takes: [text, wholes, form<FormOf<parts.HandOverInput>>()],
  run: async (runtime, viewer, query, learnerIds, values) =>
    parts.handOverLearners(runtime, (await viewAt(runtime, viewer, query)).view, learnerIds, values),
});

/** Ends the enrolments of whoever has left. */
export const settleLeft = defineAction({
  takes: [text, wholes],
  run: async (runtime, viewer, query, learnerIds) =>
    parts.settleLeft(runtime, (await viewAt(runtime, viewer, query)).view, learnerIds),
});

export const resumeEnrolments = defineAction({ takes: [wholes], run: roster.resumeEnrolments });

/** Says no more that drift is made of other factors now. */
export const dismissModelNotice = defineAction({ takes: [], run: ownWatch.dismissModelNotice });
