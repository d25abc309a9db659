'use server';

import * as rules from '@/server/courses/course-rules';
import * as grading from '@/server/grades/grading';
import { defineAction, form, oursOrTheirs, text, texts, unchecked, whole, yes } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import * as changes from '@/server/work/completion-changes';
import type { Pair } from '@/server/work/pairs';

export const saveDates = defineAction({
  takes: [text, form<FormOf<rules.CourseDatesInput>>()],
  run: rules.saveDates,
  wakesWorker: true,
});

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
  takes: [text, form<Partial<FormOf<rules.GradingInput>>>()],
  run: rules.bandsUnder,
  refreshes: false,
});

export const saveGrading = defineAction({
  takes: [text, form<Partial<FormOf<rules.GradingInput>>>()],
  run: rules.saveGrading,
  wakesWorker: true,
});

export const saveShown = defineAction({ takes: [text, texts], run: rules.saveShown });
