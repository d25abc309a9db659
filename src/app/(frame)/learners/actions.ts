'use server';

import { LEARNERS, chooseColumns, everyMatching } from '@/server/people/learner-list';
import * as views from '@/server/people/saved-views';
import { defineAction, form, text, texts, whole } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import { askedOf, listParams } from '@/server/request/list';

/** Ids of everybody on the list, for an action on all of them. */
export const everyLearnerMatching = defineAction({
  takes: [text],
  run: (runtime, viewer, query) =>
    everyMatching(
      runtime,
      viewer,
      askedOf(LEARNERS, listParams(LEARNERS, Object.fromEntries(new URLSearchParams(query)))),
    ),
});

export const saveColumns = defineAction({ takes: [texts], run: chooseColumns });

/** Saves the list under a name, which it gives back as it is saved. */
export const saveView = defineAction({ takes: [form<FormOf<views.SavedViewInput>>()], run: views.saveView });

export const removeView = defineAction({ takes: [whole], run: views.removeView });

export const restoreView = defineAction({ takes: [whole], run: views.restoreView });
