'use server';

import * as merging from '@/server/people/merging';
import * as contacts from '@/server/people/other-contacts';
import { findLearner } from '@/server/people/reads';
import * as roster from '@/server/people/roster';
import * as erasing from '@/server/privacy/erasing';
import * as wishes from '@/server/contact/wishes';
import type { EndInput, EnrolInput, LearnerInput, OtherContactInput } from '@/server/people/roster-input';
import { defineAction, form, text, whole, wholeOrNull, wholes } from '@/server/request/action';
import { NotFound, type FormOf } from '@/server/request/input';

export const changeDetails = defineAction({
  takes: [whole, form<Partial<FormOf<LearnerInput>>>()],
  run: roster.changeLearner,
});

export const saveContact = defineAction({
  takes: [whole, wholeOrNull, form<FormOf<OtherContactInput>>()],
  run: contacts.saveOtherContact,
});

export const removeContact = defineAction({ takes: [whole, whole], run: contacts.removeOtherContact });

export const enrolLearner = defineAction({ takes: [whole, form<FormOf<EnrolInput>>()], run: roster.enrol });

export const moveToGroup = defineAction({
  takes: [whole, text],
  run: (runtime, viewer, enrolmentId, group) => roster.moveGroup(runtime, viewer, enrolmentId, group.trim() || null),
});

export const endEnrolments = defineAction({ takes: [wholes, form<FormOf<EndInput>>()], run: roster.endEnrolments });

export const resumeEnrolments = defineAction({ takes: [wholes], run: roster.resumeEnrolments });

/** Makes the record with another id one with this one. */
export const mergeInto = defineAction({
  takes: [whole, text],
  run: async (runtime, viewer, learnerId, otherId) => {
    const other = await findLearner(runtime, viewer, otherId.trim());
    if (other === null) throw new NotFound(`No learner with the id ${otherId} is in your sight.`);
    await merging.mergeLearners(runtime, viewer, learnerId, other);
  },
});

export const unmerge = defineAction({ takes: [whole], run: merging.unmergeLearners });

export const askErasure = defineAction({
  takes: [text, form<FormOf<erasing.ErasureInput>>()],
  run: erasing.askErasure,
});

export const takeBackErasure = defineAction({ takes: [text], run: erasing.takeBackErasure });

export const saveWishes = defineAction({ takes: [whole, form<FormOf<wishes.WishesInput>>()], run: wishes.saveWishes });
