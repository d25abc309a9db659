'use server';

import { LEARNERS, chooseColumns, everyMatching } from '@/server/people/learner-list';
import { askedOf, listParams } from '@/server/request/list';
import { runtime } from '@/server/runtime';
import { dropView, keepView, putBackView, type SavedViewInput } from '@/server/people/saved-views';
import type { FormOf } from '@/server/request/input';
import { requireViewer } from '@/server/request/viewer';
import { trying, type Result } from '../../_frame/trying';

/** Ids of everybody on the list, for an action on all of them. */
export async function everyLearnerMatching(query: string): Promise<Result<number[]>> {
  const viewer = await requireViewer();
  const params = listParams(LEARNERS, Object.fromEntries(new URLSearchParams(String(query))));
  return trying(async () => everyMatching(await runtime(), viewer, askedOf(LEARNERS, params)));
}

export async function keepColumns(columns: string[]): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => chooseColumns(await runtime(), viewer, Array.isArray(columns) ? columns.map(String) : []));
}

/** Keeps the list under a name, which it gives back as it is kept. */
export async function keepTheView(form: FormOf<SavedViewInput>): Promise<Result<string>> {
  const viewer = await requireViewer();
  return trying(async () => keepView(await runtime(), viewer, { ...form }));
}

export async function dropTheView(id: number): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => dropView(await runtime(), viewer, Number(id)));
}

export async function putBackTheView(id: number): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => putBackView(await runtime(), viewer, Number(id)));
}
