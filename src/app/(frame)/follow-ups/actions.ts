'use server';

import { colleaguesOf, findFollowUp } from '@/server/contact/reads';
import { closeFollowUp, handOver, moveFollowUp, reopenFollowUp } from '@/server/contact/follow-ups';
import { assignReply } from '@/server/contact/inbound';
import { findLearner } from '@/server/people/reads';
import { changeLabels, removeNote } from '@/server/contact/contact';
import { NotFound, fields, type FormOf } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { keepTemplate, moveTemplate, removeTemplate, type TemplateInput } from '@/server/contact/templates';
import { requireViewer } from '@/server/request/viewer';
import { trying, type Result } from '../../_frame/trying';

async function opened() {
  return { viewer: await requireViewer(), runtime: await runtime() };
}

export async function endWith(id: number, outcome: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => closeFollowUp(runtime, viewer, Number(id), { outcome }));
}

export async function openAgain(id: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => reopenFollowUp(runtime, viewer, Number(id)));
}

export async function moveTo(id: number, due: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => moveFollowUp(runtime, viewer, Number(id), { due }));
}

export async function giveTo(id: number, staffId: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => handOver(runtime, viewer, Number(id), Number(staffId)));
}

/** Colleagues who see the learner of a follow-up too. */
export async function whoElse(id: number): Promise<{ id: number; name: string; role: string }[]> {
  const { runtime, viewer } = await opened();
  const found = await findFollowUp(runtime, viewer, Number(id));
  return found ? colleaguesOf(runtime, viewer, [found.learner_id]) : [];
}

/** Says whose an unmatched answer is; an empty id is nobody's. */
export async function assignTo(replyId: number, learnerId: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  const wanted = String(learnerId ?? '').trim();
  return trying(async () => {
    const id = wanted === '' ? null : await findLearner(runtime, viewer, wanted);
    if (wanted !== '' && id === null) throw new NotFound(`No learner with the id ${wanted}`);
    await assignReply(runtime, viewer, Number(replyId), id);
  });
}

export async function dropNote(id: number, removed: boolean): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => removeNote(runtime, viewer, Number(id), removed === true));
}

export async function changeTheLabels(change: {
  add?: string;
  id?: number;
  name?: string;
  remove?: number;
}): Promise<Result> {
  const { runtime, viewer } = await opened();
  const { add, remove, id, name } = fields(change);
  return trying(() => {
    if (add !== undefined) return changeLabels(runtime, viewer, { add: String(add) });
    if (remove !== undefined) return changeLabels(runtime, viewer, { remove: Number(remove) });
    return changeLabels(runtime, viewer, { id: Number(id), name: String(name ?? '') });
  });
}

export async function keepTheTemplate(id: number | null, form: FormOf<TemplateInput>): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  return trying(() => keepTemplate(runtime, viewer, id === null ? null : Number(id), { ...form }));
}

export async function removeTheTemplate(id: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => removeTemplate(runtime, viewer, Number(id)));
}

export async function moveTheTemplate(id: number, by: 1 | -1): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => moveTemplate(runtime, viewer, Number(id), by === 1 ? 1 : -1));
}
