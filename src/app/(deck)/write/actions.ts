'use server';

import { redirect } from 'next/navigation';
import { InvalidInput, NotFound, wholeNumbers, type FieldFault } from '@/server/input';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/viewer';
import { openView } from '@/server/view';
import { wakeWorker } from '@/server/worker-host';
import { keepDraft, leaveOut, sendDraft, settleMessage, startDraft, undoSend, type SendResult } from '@/server/write';

async function opened() {
  const viewer = await requireViewer();
  const all = await runtime();
  return { runtime: all, view: await openView(all, viewer) };
}

/** Only an address of this application, or the Watch. */
function safeBack(back: unknown): string {
  return typeof back === 'string' && /^\/(?![/\\])/.test(back) ? back : '/watch';
}

/** Opens a message to these learners and goes to it. */
export async function startWriting(learnerIds: number[], back: string): Promise<void> {
  const { runtime, view } = await opened();
  const id = await startDraft(runtime, view, wholeNumbers(learnerIds));
  redirect(`/write/${id}?from=${encodeURIComponent(safeBack(back))}`);
}

export async function keepText(draftId: number, text: { subject: string; body: string }): Promise<void> {
  const { runtime, view } = await opened();
  await keepDraft(runtime, view, Number(draftId), { ...text });
}

export async function removeFromDraft(draftId: number, learnerId: number): Promise<void> {
  const { runtime, view } = await opened();
  await leaveOut(runtime, view, Number(draftId), Number(learnerId));
}

export type SendState = SendResult | { outcome: 'invalid'; errors: FieldFault[] };

export async function send(
  draftId: number,
  text: { subject: string; body: string },
  acknowledged: number[],
): Promise<SendState> {
  const { runtime, view } = await opened();
  try {
    const result = await sendDraft(runtime, view, Number(draftId), { ...text }, wholeNumbers(acknowledged));
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
  const as = form.get('as') === 'sent' ? 'sent' : 'again';
  await settleMessage(runtime, view, Number(form.get('id')), as);
  wakeWorker();
  redirect(safeBack(form.get('back')));
}
