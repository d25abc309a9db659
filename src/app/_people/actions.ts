'use server';

import type { Person } from '@/core/contact/person';
import { listLabels } from '@/server/contact/reads';
import {
  keepNote,
  logCall,
  removeNote,
  takeBackCall,
  type CallInput,
  type LoggedCall,
  type NoteInput,
} from '@/server/contact/contact';
import { takeBackFollowUp, promise, type FollowUpInput } from '@/server/contact/follow-ups';
import { fields, wholeNumbers, type FormOf } from '@/server/request/input';
import { bringBack, setAside, type SetAsideInput } from '@/server/drift/own-watch';
import { explainPeople } from '@/server/people/people';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { lensNames, openView } from '@/server/request/view';
import { trying, type Result } from '../_frame/trying';

async function opened() {
  const viewer = await requireViewer();
  const all = await runtime();
  return { runtime: all, viewer, view: await openView(all, viewer) };
}

export type CallForm = FormOf<CallInput>;
export type NoteForm = FormOf<NoteInput>;
export type FollowUpForm = FormOf<FollowUpInput>;
export type SetAsideForm = FormOf<SetAsideInput>;

export async function logTheCall(learnerId: number, form: CallForm): Promise<Result<LoggedCall>> {
  const { runtime, view } = await opened();
  return trying(() => logCall(runtime, view, Number(learnerId), { ...form }));
}

export async function takeBackTheCall(logged: LoggedCall): Promise<Result> {
  const { runtime, viewer } = await opened();
  const { call, followUp } = fields(logged);
  const taken = { call: Number(call), followUp: followUp === null ? null : Number(followUp) };
  return trying(() => takeBackCall(runtime, viewer, taken));
}

export async function keepTheNote(learnerId: number, form: NoteForm): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  return trying(() => keepNote(runtime, viewer, Number(learnerId), { ...form }));
}

export async function removeTheNote(id: number, removed = true): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => removeNote(runtime, viewer, Number(id), removed));
}

/** Names of the labels a note may carry. */
export async function labelNames(): Promise<string[]> {
  await requireViewer();
  return (await listLabels(await runtime())).map((label) => label.name);
}

export async function promiseTo(learnerIds: number[], form: FollowUpForm): Promise<Result<number[]>> {
  const { runtime, view } = await opened();
  return trying(() => promise(runtime, view, wholeNumbers(learnerIds), { ...form }));
}

export async function takeBackPromises(ids: number[]): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(async () => {
    for (const id of wholeNumbers(ids)) await takeBackFollowUp(runtime, viewer, id);
  });
}

export async function setThemAside(learnerIds: number[], form: SetAsideForm): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => setAside(runtime, viewer, wholeNumbers(learnerIds), { ...form }));
}

export async function bringThemBack(learnerIds: number[]): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => bringBack(runtime, viewer, wholeNumbers(learnerIds)));
}

function textOf(value: unknown): string | undefined {
  return value === null || value === undefined ? undefined : String(value);
}

/** One person explained, for the panel beside a list; null for anybody who is not in view. */
export async function explainOne(
  learnerId: number,
  asOf: string | null,
  lensKey: string | null,
): Promise<Person | null> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const detail = { wakeDays: 28, visits: 3, contacts: 1, status: 'all' } as const;
  const found = await trying(async () => {
    const view = await openView(opened, viewer, lensNames(textOf(lensKey)), textOf(asOf));
    return (await explainPeople(opened, view, [Number(learnerId)], detail))[0] ?? null;
  }, false);
  return found.ok ? found.value : null;
}
