'use server';

import { isFileKind } from '@/core/imports/kinds';
import { dropBreak, enterBreak, setWorkingHours, type BreakInput, type HoursInput } from '@/server/courses/calendar';
import { nameGap, settleGap, type GapInput } from '@/server/feed/feed';
import { previewSetting, type SettingPreview } from '@/server/drift/setting-preview';
import { backToSetting, keepSetting, type BackInput } from '@/server/drift/settings';
import { dropMapping, settleAction } from '@/server/imports/mapping';
import { NotFound, type FormOf } from '@/server/request/input';
import { enterLearner } from '@/server/people/roster';
import type { NewLearnerInput } from '@/server/people/roster-input';
import { runtime } from '@/server/runtime';
import { dropCredential, makeCredential, type CredentialInput, type NewCredential } from '@/server/feed/sources';
import {
  changeStaff,
  endStaff,
  enterStaff,
  givePassword,
  giveScope,
  takeScope,
  type PasswordInput,
  type ScopeInput,
  type StaffInput,
} from '@/server/staff/staff-accounts';
import { requireViewer } from '@/server/request/viewer';
import { wakeWorker } from '@/server/worker-host';
import { trying, type Result } from '../../_frame/trying';

async function opened() {
  return { viewer: await requireViewer(), runtime: await runtime() };
}

export async function addTheLearner(form: FormOf<NewLearnerInput>): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => enterLearner(runtime, viewer, { ...form }));
  wakeWorker();
  return result;
}

export async function addTheStaff(form: FormOf<StaffInput>): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  return trying(() => enterStaff(runtime, viewer, { ...form }));
}

export async function changeTheStaff(id: number, form: FormOf<StaffInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => changeStaff(runtime, viewer, Number(id), { ...form }));
}

export async function giveTheScope(id: number, form: FormOf<ScopeInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => giveScope(runtime, viewer, Number(id), { ...form }));
}

export async function takeTheScope(id: number, scopeId: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => takeScope(runtime, viewer, Number(id), Number(scopeId)));
}

export async function giveThePassword(id: number, form: FormOf<PasswordInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => givePassword(runtime, viewer, Number(id), { ...form }));
}

export async function endTheStaff(id: number, ended: boolean): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => endStaff(runtime, viewer, Number(id), ended === true));
}

export async function settleTheAction(id: number, kind: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => settleAction(runtime, viewer, Number(id), { kind }));
  wakeWorker();
  return result;
}

export async function forgetTheMapping(source: string, kind: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(async () => {
    if (!isFileKind(kind)) throw new NotFound('No such mapping');
    await dropMapping(runtime, viewer, String(source), kind);
  });
}

export async function nameTheGap(form: FormOf<GapInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => nameGap(runtime, viewer, { ...form }));
  wakeWorker();
  return result;
}

export async function settleTheGap(id: number, is: boolean): Promise<Result> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => settleGap(runtime, viewer, Number(id), is === true));
  wakeWorker();
  return result;
}

export async function makeTheCredential(form: FormOf<CredentialInput>): Promise<Result<NewCredential>> {
  const { runtime, viewer } = await opened();
  return trying(() => makeCredential(runtime, viewer, { ...form }));
}

export async function dropTheCredential(id: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => dropCredential(runtime, viewer, Number(id)));
}

export async function setTheHours(form: FormOf<HoursInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(async () => void (await setWorkingHours(runtime, viewer, { ...form })));
}

export async function addTheBreak(form: FormOf<BreakInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => enterBreak(runtime, viewer, { ...form }));
  wakeWorker();
  return result;
}

export async function dropTheBreak(id: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => dropBreak(runtime, viewer, Number(id)));
  wakeWorker();
  return result;
}

/** Who would join today's list and who would leave it; nothing is kept. */
export async function previewTheSetting(form: Record<string, string>): Promise<Result<SettingPreview>> {
  const { runtime, viewer } = await opened();
  return trying(() => previewSetting(runtime, viewer, { ...form }), false);
}

export async function keepTheSetting(form: Record<string, string>): Promise<Result<string[]>> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => keepSetting(runtime, viewer, { ...form }));
  wakeWorker();
  return result;
}

export async function backToTheSetting(id: number, form: FormOf<BackInput>): Promise<Result<string[]>> {
  const { runtime, viewer } = await opened();
  const result = await trying(() => backToSetting(runtime, viewer, Number(id), { ...form }));
  wakeWorker();
  return result;
}
