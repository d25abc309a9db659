'use server';

import { redirect } from 'next/navigation';
import { ownAddress } from '../../_frame/own-address';
import { defineAction, form, resultOf, text, textOrNull, texts, whole } from '@/server/request/action';
import { InvalidInput, NotFound, formOf, wholeNumbers, type FieldFault } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { openDriftView } from '@/server/request/view';
import { revokeLink } from '@/server/contact/page-links';
import { wakeWorker } from '@/server/worker-host';
import {
  chooseReceivers,
  leaveOut,
  saveDraft,
  sayOnPage,
  sendDraft,
  settleMessage,
  startDraft,
  undoSend,
  type SendResult,
} from '@/server/contact/write';

async function opened() {
  const viewer = await requireViewer();
  const all = await runtime();
  return { runtime: all, view: await openDriftView(all, viewer) };
}

/** Opens a message to these learners and goes to it, with a text to begin from; says why when it cannot. */
export async function startWriting(
  learnerIds: number[],
  back: string,
  begin: { subject?: string; body?: string; is_about?: 'yes'; is_praise?: 'yes'; receivers?: 'crew' } = {},
): Promise<string> {
  const { runtime, view } = await opened();
  const begun = await resultOf(() => startDraft(runtime, view, wholeNumbers(learnerIds), { ...begin }));
  if (!begun.ok) return begun.says;
  redirect(`/write/${begun.value}?from=${encodeURIComponent(ownAddress(back))}`);
}

/** What is written in the form. */
export interface WrittenForm {
  subject: string;
  body: string;
  channel: string;
  template_id: string;
  follow_up_on: string;
  is_about: string;
  /** What those beside a learner are written, and what is said on the page that goes with it. */
  other_subject: string;
  other_body: string;
  sentence: string;
}

/** Saves what is written so far; says what was wrong when it could not. */
export const saveText = defineAction({
  takes: [whole, form<WrittenForm>()],
  run: async (runtime, viewer, draftId, values) =>
    saveDraft(runtime, await openDriftView(runtime, viewer), draftId, values),
  refreshes: false,
});

export const removeFromDraft = defineAction({
  takes: [whole, text],
  run: async (runtime, viewer, draftId, key) => leaveOut(runtime, await openDriftView(runtime, viewer), draftId, key),
  refreshes: false,
});

/** Chooses who receives the message of each learner. */
export const chooseWhoReceives = defineAction({
  takes: [whole, texts],
  run: async (runtime, viewer, draftId, receivers) =>
    chooseReceivers(runtime, await openDriftView(runtime, viewer), draftId, receivers),
  refreshes: false,
});

/** Says something on one learner's page alone. */
export const saySentence = defineAction({
  takes: [whole, whole, textOrNull],
  run: async (runtime, viewer, draftId, learnerId, sentence) =>
    sayOnPage(runtime, await openDriftView(runtime, viewer), draftId, learnerId, sentence),
  refreshes: false,
});

/** Ends the address of a page that was sent. */
export const revoke = defineAction({ takes: [whole], run: revokeLink });

export type SendState = SendResult | { outcome: 'invalid'; errors: FieldFault[] };

export async function send(draftId: number, text: WrittenForm, acknowledged: string[]): Promise<SendState> {
  const { runtime, view } = await opened();
  try {
    const result = await sendDraft(runtime, view, Number(draftId), { ...text }, acknowledged.map(String));
    wakeWorker();
    return result;
  } catch (error) {
    if (error instanceof InvalidInput) return { outcome: 'invalid', errors: error.errors };
    if (error instanceof NotFound)
      return { outcome: 'invalid', errors: [{ field: 'message', message: error.message }] };
    throw error;
  }
}

export async function undo(draftId: number): Promise<boolean> {
  const { runtime, view } = await opened();
  return undoSend(runtime, view, Number(draftId));
}

export async function settle(form: FormData): Promise<void> {
  const { runtime, view } = await opened();
  const sent = formOf(form);
  const as = sent.get('as') === 'sent' ? 'sent' : 'again';
  // One that is not there, or no longer unsure: the page that comes back shows it.
  await resultOf(() => settleMessage(runtime, view, Number(sent.get('id')), as));
  wakeWorker();
  redirect(ownAddress(sent.get('back')));
}
