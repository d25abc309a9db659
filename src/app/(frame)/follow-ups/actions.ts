'use server';

import * as answers from '@/server/contact/answers';
import * as contact from '@/server/contact/contact';
import * as followUps from '@/server/contact/follow-ups';
import { assignReply } from '@/server/contact/inbound';
import { colleaguesOf, findFollowUp } from '@/server/contact/reads';
import * as templates from '@/server/contact/templates';
import { findLearner } from '@/server/people/reads';
import { defineAction, form, text, unchecked, whole, wholeOrNull, yes } from '@/server/request/action';
import { NotFound, fields, type FormOf } from '@/server/request/input';
import { requireViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';

export const closeFollowUp = defineAction({
  takes: [whole, text],
  run: (runtime, viewer, id, outcome) => followUps.closeFollowUp(runtime, viewer, id, { outcome }),
});

export const reopenFollowUp = defineAction({ takes: [whole], run: followUps.reopenFollowUp });

export const moveFollowUp = defineAction({
  takes: [whole, text],
  run: (runtime, viewer, id, due) => followUps.moveFollowUp(runtime, viewer, id, { due }),
});

export const handOverFollowUp = defineAction({ takes: [whole, whole], run: followUps.handOver });

/** Colleagues who see the learner of a follow-up too. */
export async function colleaguesForFollowUp(id: number): Promise<{ id: number; name: string; role: string }[]> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const found = await findFollowUp(opened, viewer, Number(id));
  return found ? colleaguesOf(opened, viewer, [found.learner_id]) : [];
}

/** Says whose an unmatched answer is; an empty id is nobody's. */
export const assignAnswer = defineAction({
  takes: [whole, text],
  run: async (runtime, viewer, replyId, learnerId) => {
    const wanted = learnerId.trim();
    const id = wanted === '' ? null : await findLearner(runtime, viewer, wanted);
    if (wanted !== '' && id === null) throw new NotFound(`No learner with the id ${wanted}`);
    await assignReply(runtime, viewer, replyId, id);
  },
});

export const readAnswer = defineAction({ takes: [whole, yes], run: answers.readAnswer });

export const removeNote = defineAction({ takes: [whole, yes], run: contact.removeNote });

export const pinNote = defineAction({ takes: [whole, yes], run: contact.pinNote });

interface LabelChange {
  add?: string;
  id?: number;
  name?: string;
  remove?: number;
}

export const changeLabels = defineAction({
  takes: [unchecked<LabelChange>()],
  run: (runtime, viewer, change) => {
    const { add, remove, id, name } = fields(change as LabelChange);
    if (add !== undefined) return contact.changeLabels(runtime, viewer, { add: String(add) });
    if (remove !== undefined) return contact.changeLabels(runtime, viewer, { remove: Number(remove) });
    return contact.changeLabels(runtime, viewer, { id: Number(id), name: String(name ?? '') });
  },
});

export const saveTemplate = defineAction({
  takes: [wholeOrNull, form<FormOf<templates.TemplateInput>>()],
  run: templates.saveTemplate,
});

export const removeTemplate = defineAction({ takes: [whole], run: templates.removeTemplate });

export const moveTemplate = defineAction({
  takes: [whole, unchecked<1 | -1>()],
  run: (runtime, viewer, id, by) => templates.moveTemplate(runtime, viewer, id, by === 1 ? 1 : -1),
});
