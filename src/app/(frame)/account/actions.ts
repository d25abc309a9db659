'use server';

import type { RegistrationResponseJSON } from '@simplewebauthn/browser';
import { revalidatePath } from 'next/cache';
import { defineAction, form, text, unchecked, whole, yes } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import { setFlareMail } from '@/server/contact/flares';
import { ownOrigin, sessionToken, signInFrom } from '@/server/request/viewer';
import * as account from '@/server/staff/own-account';
import * as tokens from '@/server/staff/own-tokens';
import * as passkeys from '@/server/staff/passkeys';
import * as second from '@/server/staff/second-factor';

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

/** A new secret for one's app, and its picture. */
export const offerCodes = defineAction({ takes: [], run: second.offerOwnCodes, refreshes: false });

export const setUpCodes = defineAction({ takes: [form<FormOf<second.OwnCodesInput>>()], run: second.setUpOwnCodes });

export const newRecoveryCodes = defineAction({
  takes: [form<FormOf<second.OwnPasswordAgain>>()],
  run: second.newOwnPaper,
});

export const removeCodes = defineAction({
  takes: [form<FormOf<second.OwnPasswordAgain>>()],
  run: second.removeOwnCodes,
});

/** What the browser asks of a device for a new passkey. */
export const offerPasskey = defineAction({
  takes: [],
  run: async (runtime, viewer) => passkeys.offerPasskey(runtime, viewer, await ownOrigin()),
  refreshes: false,
});

export const keepPasskey = defineAction({
  takes: [unchecked<RegistrationResponseJSON>(), form<FormOf<passkeys.NewPasskeyInput>>()],
  run: async (runtime, viewer, answer, values) => {
    const { agent } = await signInFrom();
    await passkeys.keepPasskey(runtime, viewer, { ...(await ownOrigin()), agent }, answer, values);
  },
});

export const removePasskey = defineAction({
  takes: [whole, form<FormOf<second.OwnPasswordAgain>>()],
  run: passkeys.removeOwnPasskey,
});

export const makeToken = defineAction({ takes: [form<FormOf<tokens.TokenInput>>()], run: tokens.makeToken });

export const endToken = defineAction({ takes: [whole], run: tokens.endOwnToken });

export const switchFlareMail = defineAction({ takes: [yes], run: setFlareMail });
