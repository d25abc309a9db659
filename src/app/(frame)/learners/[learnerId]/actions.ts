'use server';

import { findLearner } from '@/server/people/reads';
import { mergeLearners, unmergeLearners } from '@/server/people/merging';
import { dropOtherContact, keepOtherContact } from '@/server/people/other-contacts';
import { changeLearner, endEnrolments, enrol, moveGroup, resumeEnrolments } from '@/server/people/roster';
import type { EndInput, EnrolInput, LearnerInput, OtherContactInput } from '@/server/people/roster-input';
import { NotFound, wholeNumbers, type FormOf } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { trying, type Result } from '../../../_frame/trying';

async function opened() {
  return { viewer: await requireViewer(), runtime: await runtime() };
}

export async function changeDetails(learnerId: number, form: Partial<FormOf<LearnerInput>>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => changeLearner(runtime, viewer, Number(learnerId), { ...form }));
}

export async function keepContact(
  learnerId: number,
  contactId: number | null,
  form: FormOf<OtherContactInput>,
): Promise<Result> {
  const { runtime, viewer } = await opened();
  const id = contactId === null ? null : Number(contactId);
  return trying(() => keepOtherContact(runtime, viewer, Number(learnerId), id, { ...form }));
}

export async function dropContact(learnerId: number, contactId: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => dropOtherContact(runtime, viewer, Number(learnerId), Number(contactId)));
}

export async function enrolThem(learnerId: number, form: FormOf<EnrolInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => enrol(runtime, viewer, Number(learnerId), { ...form }));
}

export async function moveToGroup(enrolmentId: number, group: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => moveGroup(runtime, viewer, Number(enrolmentId), String(group).trim() || null));
}

export async function endThem(enrolmentIds: number[], form: FormOf<EndInput>): Promise<Result<number[]>> {
  const { runtime, viewer } = await opened();
  return trying(() => endEnrolments(runtime, viewer, wholeNumbers(enrolmentIds), { ...form }));
}

export async function resumeThem(enrolmentIds: number[]): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => resumeEnrolments(runtime, viewer, wholeNumbers(enrolmentIds)));
}

/** Makes the record with another id one with this one. */
export async function mergeInto(learnerId: number, otherId: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(async () => {
    const other = await findLearner(runtime, viewer, String(otherId).trim());
    if (other === null) throw new NotFound(`No learner with the id ${otherId} is in your sight.`);
    await mergeLearners(runtime, viewer, Number(learnerId), other);
  });
}

export async function takeApart(learnerId: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => unmergeLearners(runtime, viewer, Number(learnerId)));
}
