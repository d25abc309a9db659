'use server';

import type { FormOf } from '@/server/request/input';
import { requireViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { acceptRefused, closeByCheckIns, openByCheckIns, type ClosedRoll } from '@/server/sessions/check-in';
import { dropFeed, makeFeed } from '@/server/sessions/feeds';
import {
  effectOfMark,
  endMark,
  keepMark,
  keepRules,
  type MarkEffect,
  type MarkInput,
  type RuleInput,
} from '@/server/sessions/marks';
import { settlePerson, type SettleInput } from '@/server/sessions/presence';
import { settleDifference, takeRollBack } from '@/server/sessions/roll';
import {
  cancelSessions,
  changeSession,
  deleteSessions,
  reinstateSessions,
  planSessions,
  undoPlanning,
  type Planned,
} from '@/server/sessions/timetable';
import type { ChangeSessionInput, NewSessionInput, CancelInput } from '@/server/sessions/timetable-input';
import { wakeWorker } from '@/server/worker-host';
import { trying, type Result } from '../../_frame/trying';

async function opened() {
  return { viewer: await requireViewer(), runtime: await runtime() };
}

/** Ids from a browser, which may be anything. */
function texts(values: unknown): string[] {
  return Array.isArray(values) ? values.filter((value): value is string => typeof value === 'string') : [];
}

/** Does what makes some drift stale, and has it read anew. */
async function changing<T>(work: () => Promise<T>): Promise<Result<T>> {
  const result = await trying(work);
  wakeWorker();
  return result;
}

export async function planTheSessions(form: FormOf<NewSessionInput>): Promise<Result<Planned>> {
  const { runtime, viewer } = await opened();
  return changing(() => planSessions(runtime, viewer, { ...form }));
}

export async function changeTheSession(id: string, form: FormOf<ChangeSessionInput>): Promise<Result<Planned>> {
  const { runtime, viewer } = await opened();
  return changing(() => changeSession(runtime, viewer, String(id), { ...form }));
}

export async function cancelTheSessions(ids: string[], form: FormOf<CancelInput>): Promise<Result<Planned>> {
  const { runtime, viewer } = await opened();
  return changing(() => cancelSessions(runtime, viewer, texts(ids), { ...form }));
}

export async function reinstateTheSessions(ids: string[]): Promise<Result<Planned>> {
  const { runtime, viewer } = await opened();
  return changing(() => reinstateSessions(runtime, viewer, texts(ids)));
}

export async function deleteThem(ids: string[]): Promise<Result<Planned>> {
  const { runtime, viewer } = await opened();
  return changing(() => deleteSessions(runtime, viewer, texts(ids)));
}

export async function undoThePlanning(change: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => undoPlanning(runtime, viewer, Number(change)));
}

export async function closeTheRoll(id: string): Promise<Result<ClosedRoll>> {
  const { runtime, viewer } = await opened();
  return changing(() => closeByCheckIns(runtime, viewer, String(id)));
}

export async function openTheRollAgain(id: string, absent: number[]): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() =>
    openByCheckIns(runtime, viewer, String(id), { absent: Array.isArray(absent) ? absent.map(Number) : [] }),
  );
}

export async function settleThePerson(
  id: string,
  form: FormOf<SettleInput>,
): Promise<Result<{ learner_id: number | null } | null>> {
  const { runtime, viewer } = await opened();
  return changing(() => settlePerson(runtime, viewer, String(id), { ...form }));
}

export async function takeTheRollBack(id: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => takeRollBack(runtime, viewer, String(id)));
}

export async function settleTheDifference(id: string, learnerId: string, take: 'ours' | 'theirs'): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() =>
    settleDifference(runtime, viewer, String(id), String(learnerId), take === 'theirs' ? 'theirs' : 'ours'),
  );
}

export async function acceptThem(id: string, learnerId: string): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => acceptRefused(runtime, viewer, String(id), String(learnerId)));
}

export async function lookAtTheMark(code: string, form: FormOf<MarkInput>): Promise<Result<MarkEffect>> {
  const { runtime, viewer } = await opened();
  return trying(() => effectOfMark(runtime, viewer, String(code), { ...form }), false);
}

export async function keepTheMark(code: string | null, form: FormOf<MarkInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => keepMark(runtime, viewer, code === null ? null : String(code), { ...form }));
}

export async function endTheMark(code: string, ended: boolean): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => endMark(runtime, viewer, String(code), ended === true));
}

export async function keepTheRules(course: string, form: FormOf<RuleInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => keepRules(runtime, viewer, String(course), { ...form }));
}

export async function makeTheFeed(course: string | null): Promise<Result<string>> {
  const { runtime, viewer } = await opened();
  return trying(() => makeFeed(runtime, viewer, course === null ? null : String(course)));
}

export async function dropTheFeed(id: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => dropFeed(runtime, viewer, Number(id)));
}
