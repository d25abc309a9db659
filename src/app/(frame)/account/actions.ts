'use server';

import { revalidatePath } from 'next/cache';
import { defineAction, form, text, yes } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import { setFlareMail } from '@/server/contact/flares';
import { sessionToken } from '@/server/request/viewer';
import * as account from '@/server/staff/own-account';

export const changeOwnPassword = defineAction({
  takes: [form<FormOf<account.OwnPasswordInput>>()],
  run: async (runtime, viewer, values) => account.changeOwnPassword(runtime, viewer, (await sessionToken())!, values),
});

export const endOwnSignIn = defineAction({ takes: [text], run: account.endOwnSignIn });

export const endOtherSignIns = defineAction({
  takes: [],
  run: async (runtime, viewer) => account.endOtherSignIns(runtime, viewer, (await sessionToken())!),
});

export const switchLetters = defineAction({
  takes: [yes],
  run: async (runtime, viewer, on) => {
    await account.setLetters(runtime, viewer, on);
    revalidatePath('/', 'layout');
  },
});

export const setIdle = defineAction({ takes: [form<FormOf<account.IdleInput>>()], run: account.setIdle });

export const switchFlareMail = defineAction({ takes: [yes], run: setFlareMail });
