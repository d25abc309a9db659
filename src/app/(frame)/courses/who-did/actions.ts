'use server';

import type { SavedCheck } from '@/data/item-use/checks';
import * as checks from '@/server/item-use/checks';
import { defineAction, form, unchecked, whole } from '@/server/request/action';
import { fields, type FormOf } from '@/server/request/input';

export const saveCheck = defineAction({ takes: [form<FormOf<checks.CheckInput>>()], run: checks.saveCheck });

export const removeCheck = defineAction({ takes: [whole], run: checks.removeCheck });

/** Puts back a check that was just removed: it is asked anew. */
export const restoreCheck = defineAction({
  takes: [unchecked<SavedCheck>()],
  run: async (runtime, viewer, check) => {
    const { name, limit_count, query } = fields(check as SavedCheck);
    await checks.saveCheck(runtime, viewer, { name, limit: String(limit_count), query });
  },
});
