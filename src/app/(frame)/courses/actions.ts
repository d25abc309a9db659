'use server';

import type { ScoreBand } from '@/core/grades/bands';
import {
  bandsUnder,
  changeItem,
  effectOfItem,
  keepDates,
  keepGrading,
  keepShown,
  keepUnitDue,
  removeItem,
  type CourseDatesInput,
  type GradingInput,
  type ItemEffect,
  type ItemInput,
  type UnitDueInput,
} from '@/server/courses/course-rules';
import {
  dismissAttempt,
  scoreByHand,
  settleTheScore,
  type DismissInput,
  type ScoreInput,
} from '@/server/grades/grading';
import type { FormOf } from '@/server/request/input';
import { requireViewer } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import {
  extendItems,
  markItems,
  undoDeed,
  type CompletionInput,
  type Deed,
  type ExtensionInput,
} from '@/server/work/completion-changes';
import type { Pair } from '@/server/work/pairs';
import { wakeWorker } from '@/server/worker-host';
import { trying, type Result } from '../../_frame/trying';

async function opened() {
  return { viewer: await requireViewer(), runtime: await runtime() };
}

/** Does what changes somebody's work, and has what hangs on it derived anew. */
async function changing<T>(work: () => Promise<T>): Promise<Result<T>> {
  const result = await trying(work);
  if (result.ok) wakeWorker();
  return result;
}

export async function keepTheDates(course: string, form: FormOf<CourseDatesInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => keepDates(runtime, viewer, String(course), { ...form }));
}

export async function keepTheUnitDue(course: string, form: FormOf<UnitDueInput>): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  return changing(() => keepUnitDue(runtime, viewer, String(course), { ...form }));
}

export async function markTheItems(pairs: Pair[], form: FormOf<CompletionInput>): Promise<Result<Deed>> {
  const { runtime, viewer } = await opened();
  return changing(() => markItems(runtime, viewer, pairs, { ...form }));
}

export async function extendTheItems(pairs: Pair[], form: FormOf<ExtensionInput>): Promise<Result<Deed>> {
  const { runtime, viewer } = await opened();
  return changing(() => extendItems(runtime, viewer, pairs, { ...form }));
}

export async function undoTheDeed(batch: number): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => undoDeed(runtime, viewer, Number(batch)));
}

export async function giveTheScore(learnerId: number, itemId: number, form: FormOf<ScoreInput>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => scoreByHand(runtime, viewer, Number(learnerId), Number(itemId), { ...form }));
}

export async function dismissTheAttempt(
  learnerId: number,
  itemId: number,
  isDismissed: boolean,
  form: FormOf<DismissInput>,
): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() =>
    dismissAttempt(runtime, viewer, Number(learnerId), Number(itemId), isDismissed === true, { ...form }),
  );
}

export async function settleTheDifference(
  learnerId: number,
  itemId: number,
  attempt: number,
  take: 'ours' | 'theirs',
): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() =>
    settleTheScore(
      runtime,
      viewer,
      Number(learnerId),
      Number(itemId),
      Number(attempt),
      take === 'theirs' ? 'theirs' : 'ours',
    ),
  );
}

export async function lookAtTheItem(
  course: string,
  item: string,
  form: Partial<FormOf<ItemInput>>,
): Promise<Result<ItemEffect>> {
  const { runtime, viewer } = await opened();
  return trying(() => effectOfItem(runtime, viewer, String(course), String(item), { ...form }), false);
}

export async function changeTheItem(course: string, item: string, form: Partial<FormOf<ItemInput>>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => changeItem(runtime, viewer, String(course), String(item), { ...form }));
}

export async function removeTheItem(course: string, item: string, isRemoved: boolean): Promise<Result<number>> {
  const { runtime, viewer } = await opened();
  return changing(() => removeItem(runtime, viewer, String(course), String(item), isRemoved === true));
}

export async function lookAtTheBands(
  course: string,
  form: Partial<FormOf<GradingInput>>,
): Promise<Result<Record<ScoreBand, number>>> {
  const { runtime, viewer } = await opened();
  return trying(() => bandsUnder(runtime, viewer, String(course), { ...form }), false);
}

export async function keepTheGrading(course: string, form: Partial<FormOf<GradingInput>>): Promise<Result> {
  const { runtime, viewer } = await opened();
  return changing(() => keepGrading(runtime, viewer, String(course), { ...form }));
}

export async function keepTheShown(course: string, parts: string[]): Promise<Result> {
  const { runtime, viewer } = await opened();
  return trying(() => keepShown(runtime, viewer, String(course), parts));
}
