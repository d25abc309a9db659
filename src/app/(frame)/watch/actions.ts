'use server';

import { keepToldOfDrift, setCapacity } from '@/server/drift/own-watch';
import { handOverLearners, settleLeft, whoTakes, type HandOverInput } from '@/server/drift/part-actions';
import { resumeEnrolments } from '@/server/people/roster';
import { wholeNumbers, type FormOf } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { lensNames, openView } from '@/server/request/view';
import { allMatching, readWatchFilter } from '@/server/drift/watch';
import { trying, type Result } from '../../_frame/trying';

export async function saveCapacity(capacity: string): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => setCapacity(await runtime(), viewer, { capacity }));
}

/** The view of a list's address. */
async function openedAt(query: string) {
  const viewer = await requireViewer();
  const opened = await runtime();
  const params = Object.fromEntries(new URLSearchParams(String(query)));
  return { runtime: opened, params, view: await openView(opened, viewer, lensNames(params.in), params.as_of) };
}

/** Ids of everybody who matches the list's filter, for an action on all of them. */
export async function everybodyMatching(query: string): Promise<number[]> {
  const { runtime, params, view } = await openedAt(query);
  return allMatching(runtime, view, readWatchFilter(params));
}

/** Colleagues who see all of these learners too. */
export async function colleaguesFor(
  query: string,
  learnerIds: number[],
): Promise<{ id: number; name: string; role: string }[]> {
  const { runtime, view } = await openedAt(query);
  return whoTakes(runtime, view, wholeNumbers(learnerIds));
}

export async function handThemOver(
  query: string,
  learnerIds: number[],
  form: FormOf<HandOverInput>,
): Promise<Result<number[]>> {
  const { runtime, view } = await openedAt(query);
  return trying(() => handOverLearners(runtime, view, wholeNumbers(learnerIds), { ...form }));
}

/** Ends the enrolments of whoever has left. */
export async function theyHaveLeft(query: string, learnerIds: number[]): Promise<Result<number[]>> {
  const { runtime, view } = await openedAt(query);
  return trying(() => settleLeft(runtime, view, wholeNumbers(learnerIds)));
}

export async function theyAreBack(enrolmentIds: number[]): Promise<Result> {
  const { runtime, view } = await openedAt('');
  return trying(() => resumeEnrolments(runtime, view.viewer, wholeNumbers(enrolmentIds)));
}

/** Says no more that drift is made of other factors now. */
export async function toldOfDrift(): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => keepToldOfDrift(await runtime(), viewer));
}
