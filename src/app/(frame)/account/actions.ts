'use server';

import { revalidatePath } from 'next/cache';
import {
  changeOwnPassword,
  endOtherSignIns,
  endOwnSignIn,
  setIdle,
  setLetters,
  type IdleInput,
  type OwnPasswordInput,
} from '@/server/staff/own-account';
import type { FormOf } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { requireViewer, sessionToken } from '@/server/request/viewer';
import { trying, type Result } from '../../_frame/trying';

export async function changeMyPassword(form: FormOf<OwnPasswordInput>): Promise<Result> {
  const viewer = await requireViewer();
  const token = (await sessionToken())!;
  return trying(async () => changeOwnPassword(await runtime(), viewer, token, { ...form }));
}

export async function endMySignIn(handle: string): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => endOwnSignIn(await runtime(), viewer, String(handle)));
}

export async function endMyOtherSignIns(): Promise<Result> {
  const viewer = await requireViewer();
  const token = (await sessionToken())!;
  return trying(async () => endOtherSignIns(await runtime(), viewer, token));
}

export async function switchLetters(on: boolean): Promise<Result> {
  const viewer = await requireViewer();
  const result = await trying(async () => setLetters(await runtime(), viewer, on === true));
  revalidatePath('/', 'layout');
  return result;
}

export async function setMyIdle(form: FormOf<IdleInput>): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => setIdle(await runtime(), viewer, { ...form }));
}
