'use server';

import * as rules from '@/server/courses/course-rules';
import * as settings from '@/server/courses/course-settings';
import * as grading from '@/server/grades/grading';
import { defineAction, form, oursOrTheirs, text, unchecked, whole, yes } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import * as changes from '@/server/work/completion-changes';
import type { Pair } from '@/server/work/pairs';

export const saveUnitDue = defineAction({
  takes: [text, form<FormOf<rules.UnitDueInput>>()],
  run: rules.saveUnitDue,
  wakesWorker: true,
});

export const overrideItems = defineAction({
  takes: [unchecked<Pair[]>(), form<FormOf<changes.CompletionInput>>()],
  run: changes.overrideItems,
  wakesWorker: true,
});

export const extendItems = defineAction({
  takes: [unchecked<Pair[]>(), form<FormOf<changes.ExtensionInput>>()],
  run: changes.extendItems,
  wakesWorker: true,
});

export const undoChange = defineAction({ takes: [whole], run: changes.undoChange, wakesWorker: true });

export const giveScore = defineAction({
  takes: [whole, whole, form<FormOf<grading.ScoreInput>>()],
  run: grading.scoreByHand,
  wakesWorker: true,
});

export const dismissAttempt = defineAction({
  takes: [whole, whole, yes, form<FormOf<grading.DismissInput>>()],
  run: grading.dismissAttempt,
  wakesWorker: true,
});

export const settleScore = defineAction({
  takes: [whole, whole, whole, oursOrTheirs],
  run: grading.settleScore,
  wakesWorker: true,
});

/** Whom a change of an item would concern; nothing is changed. */
export const previewItem = defineAction({
  takes: [text, text, form<Partial<FormOf<rules.ItemInput>>>()],
  run: rules.effectOfItem,
  refreshes: false,
});

export const changeItem = defineAction({
  takes: [text, text, form<Partial<FormOf<rules.ItemInput>>>()],
  run: rules.changeItem,
  wakesWorker: true,
});

export const removeItem = defineAction({ takes: [text, text, yes], run: rules.removeItem, wakesWorker: true });

/** How many totals each band would have; nothing is changed. */
export const previewBands = defineAction({
  takes: [text, form<Partial<FormOf<settings.BandsInput>>>()],
  run: rules.bandsUnder,
  refreshes: false,
});

export const saveCourseSetting = defineAction({
  takes: [text, text, form<Record<string, string>>()],
  run: settings.saveCourseSetting,
  wakesWorker: true,
});
