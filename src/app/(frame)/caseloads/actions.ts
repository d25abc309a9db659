'use server';

import * as caseloads from '@/server/people/caseloads';
import { defineAction, form, text, unchecked, whole, wholes } from '@/server/request/action';

interface NameForm {
  name: string;
}

/** Makes a caseload of the learners whom a list's filters find, or an empty one. */
export const makeCaseload = defineAction({
  takes: [form<NameForm>(), text],
  run: (runtime, viewer, { name }, rule) => caseloads.makeCaseload(runtime, viewer, { name, rule }),
});

export const renameCaseload = defineAction({
  takes: [whole, form<NameForm>()],
  run: (runtime, viewer, id, { name }) => caseloads.renameCaseload(runtime, viewer, id, { name }),
});

export const shareCaseload = defineAction({
  takes: [whole, unchecked<number[]>()],
  run: (runtime, viewer, id, staff) =>
    caseloads.shareOwnCaseload(runtime, viewer, id, Array.isArray(staff) ? (staff as unknown[]) : []),
});

export const removeCaseload = defineAction({
  takes: [whole],
  run: (runtime, viewer, id) => caseloads.dropCaseload(runtime, viewer, String(id)),
});

/** Puts learners in a caseload of one's own, or in a new one; or leaves them out. Gives its number. */
export const putInCaseload = defineAction({
  takes: [wholes, form<{ into: string; name: string; how: string }>()],
  run: caseloads.putByForm,
});
