'use server';

import {
  defineAction,
  form,
  oursOrTheirs,
  text,
  textOrNull,
  texts,
  unchecked,
  whole,
  yes,
} from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import * as checkIn from '@/server/sessions/check-in';
import * as feeds from '@/server/sessions/feeds';
import * as marks from '@/server/sessions/marks';
import * as presence from '@/server/sessions/presence';
import * as roll from '@/server/sessions/roll';
import * as timetable from '@/server/sessions/timetable';
import type { CancelInput, ChangeSessionInput, NewSessionInput } from '@/server/sessions/timetable-input';

export const planSessions = defineAction({
  takes: [form<FormOf<NewSessionInput>>()],
  run: timetable.planSessions,
  wakesWorker: true,
});

export const changeSession = defineAction({
  takes: [text, form<FormOf<ChangeSessionInput>>()],
  run: timetable.changeSession,
  wakesWorker: true,
});

export const cancelSessions = defineAction({
  takes: [texts, form<FormOf<CancelInput>>()],
  run: timetable.cancelSessions,
  wakesWorker: true,
});

export const reinstateSessions = defineAction({
  takes: [texts],
  run: timetable.reinstateSessions,
  wakesWorker: true,
});

export const deleteSessions = defineAction({ takes: [texts], run: timetable.deleteSessions, wakesWorker: true });

export const undoPlanning = defineAction({ takes: [whole], run: timetable.undoPlanning, wakesWorker: true });

export const closeRoll = defineAction({ takes: [text], run: checkIn.closeByCheckIns, wakesWorker: true });

export const reopenRoll = defineAction({
  takes: [text, unchecked<number[]>()],
  run: (runtime, viewer, id, absent) =>
    checkIn.openByCheckIns(runtime, viewer, id, { absent: Array.isArray(absent) ? absent.map(Number) : [] }),
  wakesWorker: true,
});

export const settlePerson = defineAction({
  takes: [text, form<FormOf<presence.SettleInput>>()],
  run: presence.settlePerson,
  wakesWorker: true,
});

export const takeRollBack = defineAction({ takes: [text], run: roll.takeRollBack, wakesWorker: true });

export const settleDifference = defineAction({
  takes: [text, text, oursOrTheirs],
  run: roll.settleDifference,
  wakesWorker: true,
});

export const acceptCheckIn = defineAction({ takes: [text, text], run: checkIn.acceptRefused, wakesWorker: true });

/** How many rolls a change of a mark would concern; nothing is changed. */
export const previewMark = defineAction({
  takes: [text, form<FormOf<marks.MarkInput>>()],
  run: marks.effectOfMark,
  refreshes: false,
});

export const saveMark = defineAction({
  takes: [textOrNull, form<FormOf<marks.MarkInput>>()],
  run: marks.saveMark,
  wakesWorker: true,
});

export const endMark = defineAction({ takes: [text, yes], run: marks.endMark, wakesWorker: true });

export const saveRules = defineAction({
  takes: [text, form<FormOf<marks.RuleInput>>()],
  run: marks.saveRules,
  wakesWorker: true,
});

export const makeFeed = defineAction({ takes: [textOrNull], run: feeds.makeFeed });

export const removeFeed = defineAction({ takes: [whole], run: feeds.removeFeed });
