'use server';

import { askForFile, keepFromLink, linkOn, saveFromLink } from '@/server/reports/from-link';
import { dropReport, shareWith } from '@/server/reports/kept';
import { writeToLearners } from '@/server/reports/letter';
import { cancelOwnRun } from '@/server/reports/runs';
import * as schedules from '@/server/reports/schedules';
import { defineAction, form, text, unchecked, whole, wholes, yes } from '@/server/request/action';

/** When a report is sent, as what, to whom. */
interface SentForm {
  by: string;
  on: number[];
  at: string;
  format: string;
  layout: string;
  to: number[];
}

/** A report's name, and the link that says what it is made of. */
interface ReportForm {
  name: string;
  link: string;
}

/** Where the report on some learners is chosen. */
export const reportOn = defineAction({ takes: [wholes], run: linkOn, refreshes: false });

/** Keeps what a link chooses under a name; gives the number of the report. */
export const keepReport = defineAction({ takes: [form<ReportForm>()], run: keepFromLink });

/** Saves what a link chooses in the report that it is of, as it was seen. */
export const saveReport = defineAction({ takes: [form<ReportForm & { revision: string }>()], run: saveFromLink });

export const removeReport = defineAction({
  takes: [whole],
  run: (runtime, viewer, id) => dropReport(runtime, viewer, String(id)),
});

export const shareReport = defineAction({
  takes: [whole, unchecked<number[]>()],
  run: (runtime, viewer, id, staff) => shareWith(runtime, viewer, String(id), { staff }),
});

export const scheduleReport = defineAction({
  takes: [whole, unchecked<SentForm>()],
  run: (runtime, viewer, id, sent) => schedules.scheduleReport(runtime, viewer, String(id), Object(sent)),
});

export const endSchedule = defineAction({ takes: [whole], run: schedules.endSchedule });

export const setMondayLetter = defineAction({ takes: [yes], run: schedules.setMondayLetter });

/** Opens a message to the learners of a report, each with their own page of it; gives the draft's number. */
export const writeReport = defineAction({
  takes: [text],
  run: (runtime, viewer, link) => writeToLearners(runtime, viewer, Object.fromEntries(new URLSearchParams(link))),
});

/** Has a long file made beside the pages. */
export const makeLong = defineAction({ takes: [text, text, text], run: askForFile });

export const cancelMade = defineAction({
  takes: [whole],
  run: (runtime, viewer, id) => cancelOwnRun(runtime, viewer, String(id)),
});
