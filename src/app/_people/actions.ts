'use server';

import type { Person } from '@/core/contact/person';
import * as contact from '@/server/contact/contact';
import * as followUps from '@/server/contact/follow-ups';
import { listLabels } from '@/server/contact/reads';
import * as ownWatch from '@/server/drift/own-watch';
import { explainPeople } from '@/server/people/people';
import { noteLook } from '@/server/privacy/looks';
import { defineAction, form, resultOf, unchecked, whole, wholes, yes } from '@/server/request/action';
import { fields, type FormOf } from '@/server/request/input';
import { openDriftView } from '@/server/request/view';
import { segmentNames } from '@/server/request/segment-names';
import { requireViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';

export type CallForm = FormOf<contact.CallInput>;
export type NoteForm = FormOf<contact.NoteInput>;
export type FollowUpForm = FormOf<followUps.FollowUpInput>;
export type SetAsideForm = FormOf<ownWatch.SetAsideInput>;

export const logCall = defineAction({
  takes: [whole, form<CallForm>()],
  run: async (runtime, viewer, learnerId, values) =>
    contact.logCall(runtime, await openDriftView(runtime, viewer), learnerId, values),
});

export const takeBackCall = defineAction({
  takes: [unchecked<contact.LoggedCall>()],
  run: (runtime, viewer, logged) => {
    const { call, followUp } = fields(logged as contact.LoggedCall);
    return contact.takeBackCall(runtime, viewer, {
      call: Number(call),
      followUp: followUp === null ? null : Number(followUp),
    });
  },
});

export const saveNote = defineAction({ takes: [whole, form<NoteForm>()], run: contact.saveNote });

export const removeNote = defineAction({ takes: [whole, yes], run: contact.removeNote });

/** Names of the labels a note may carry. */
export async function labelNames(): Promise<string[]> {
  await requireViewer();
  return (await listLabels(await runtime())).map((label) => label.name);
}

export const addFollowUps = defineAction({
  takes: [wholes, form<FollowUpForm>()],
  run: async (runtime, viewer, learnerIds, values) =>
    followUps.promise(runtime, await openDriftView(runtime, viewer), learnerIds, values),
});

export const takeBackFollowUps = defineAction({
  takes: [wholes],
  run: async (runtime, viewer, ids) => {
    for (const id of ids) await followUps.takeBackFollowUp(runtime, viewer, id);
  },
});

export const setAside = defineAction({ takes: [wholes, form<SetAsideForm>()], run: ownWatch.setAside });

export const bringBack = defineAction({ takes: [wholes], run: ownWatch.bringBack });

function textOf(value: unknown): string | undefined {
  return value === null || value === undefined ? undefined : String(value);
}

/** One person explained, for the panel beside a list; null for anybody who is not in view. */
export async function explainOne(
  learnerId: number,
  asOf: string | null,
  segmentKey: string | null,
): Promise<Person | null> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const detail = { wakeDays: 28, visits: 3, contacts: 1, status: 'all' } as const;
  const found = await resultOf(async () => {
    const view = await openDriftView(opened, viewer, segmentNames(textOf(segmentKey)), textOf(asOf));
    const [person] = await explainPeople(opened, view, [Number(learnerId)], detail);
    if (person) noteLook(opened, viewer, { learner: person.id, what: 'panel' });
    return person ?? null;
  });
  return found.ok ? found.value : null;
}
