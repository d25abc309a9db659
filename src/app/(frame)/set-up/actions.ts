'use server';

import { isFileKind } from '@/core/imports/kinds';
import * as archive from '@/server/archive/archive';
import * as calendar from '@/server/courses/calendar';
import { previewSetting } from '@/server/drift/setting-preview';
import * as settings from '@/server/drift/settings';
import * as feed from '@/server/feed/feed';
import * as sources from '@/server/feed/sources';
import * as addresses from '@/server/imports/addresses/addresses';
import * as mapping from '@/server/imports/mapping';
import * as offered from '@/server/imports/offered';
import * as provisional from '@/server/imports/provisional';
import * as waiting from '@/server/imports/waiting';
import { enterLearner } from '@/server/people/roster';
import type { NewLearnerInput } from '@/server/people/roster-input';
import * as retention from '@/server/privacy/retention';
import { defineAction, form, text, texts, whole, yes } from '@/server/request/action';
import { NotFound, type FormOf } from '@/server/request/input';
import * as tokens from '@/server/staff/own-tokens';
import * as platforms from '@/server/staff/platform/platforms';
import * as claims from '@/server/staff/provider/rules';
import type { NewPasswordInput } from '@/server/staff/new-password';
import * as links from '@/server/staff/password-links';
import * as second from '@/server/staff/second-factor';
import { setRolesWithSecond } from '@/server/staff/second-factor-roles';
import * as accounts from '@/server/staff/staff-accounts';

export const addLearner = defineAction({
  takes: [form<FormOf<NewLearnerInput>>()],
  run: enterLearner,
  wakesWorker: true,
});

export const addStaff = defineAction({ takes: [form<FormOf<accounts.StaffInput>>()], run: accounts.enterStaff });

export const changeStaff = defineAction({
  takes: [whole, form<FormOf<accounts.StaffInput>>()],
  run: accounts.changeStaff,
});

export const giveScope = defineAction({ takes: [whole, form<FormOf<accounts.ScopeInput>>()], run: accounts.giveScope });

export const takeScope = defineAction({ takes: [whole, whole], run: accounts.takeScope });

export const givePassword = defineAction({
  takes: [whole, form<FormOf<NewPasswordInput>>()],
  run: accounts.givePassword,
});

export const inviteStaff = defineAction({ takes: [whole], run: links.inviteStaff });

export const takeBackInvitation = defineAction({ takes: [whole], run: links.takeBackInvitation });

export const resetSecond = defineAction({ takes: [whole], run: second.resetSecond });

export const setSecondRoles = defineAction({ takes: [texts], run: setRolesWithSecond });

export const letGoOfIdentity = defineAction({ takes: [whole], run: claims.letGoOfIdentity });

export const addClaimRule = defineAction({ takes: [form<FormOf<claims.ClaimRuleInput>>()], run: claims.addRule });

export const removeClaimRule = defineAction({ takes: [whole], run: claims.removeRule });

export const setOnlyByProvider = defineAction({ takes: [text], run: claims.setOnlyByProvider });

export const addPlatform = defineAction({
  takes: [form<FormOf<platforms.PlatformInput>>()],
  run: platforms.addPlatformBy,
});

export const endPlatform = defineAction({ takes: [whole], run: platforms.endPlatform });

export const connectCourse = defineAction({ takes: [whole, text], run: platforms.connectCourse });

export const readRosterSoon = defineAction({ takes: [whole], run: platforms.readRosterSoon });

export const endAnyToken = defineAction({ takes: [whole], run: tokens.endAnyToken });

export const endStaff = defineAction({ takes: [whole, yes], run: accounts.endStaff });

export const settleActionKind = defineAction({
  takes: [whole, text],
  run: (runtime, viewer, id, kind) => mapping.settleAction(runtime, viewer, id, { kind }),
  wakesWorker: true,
});

export const removeMapping = defineAction({
  takes: [text, text],
  run: async (runtime, viewer, source, kind) => {
    if (!isFileKind(kind)) throw new NotFound('No such mapping');
    await mapping.removeMapping(runtime, viewer, source, kind);
  },
});

export const addGap = defineAction({ takes: [form<FormOf<feed.GapInput>>()], run: feed.nameGap, wakesWorker: true });

export const settleGap = defineAction({ takes: [whole, yes], run: feed.settleGap, wakesWorker: true });

export const makeCredential = defineAction({
  takes: [form<FormOf<sources.CredentialInput>>()],
  run: sources.makeCredential,
});

export const endCredential = defineAction({ takes: [whole], run: sources.endCredential });

export const addAddress = defineAction({
  takes: [form<FormOf<addresses.AddressInput>>()],
  run: addresses.addAddress,
  wakesWorker: true,
});

export const removeAddress = defineAction({ takes: [whole], run: addresses.removeAddress });

export const fetchNow = defineAction({ takes: [whole], run: addresses.fetchNow, wakesWorker: true });

export const setWorkingHours = defineAction({
  takes: [form<FormOf<calendar.HoursInput>>()],
  run: async (runtime, viewer, values) => void (await calendar.setWorkingHours(runtime, viewer, values)),
});

export const addBreak = defineAction({
  takes: [form<FormOf<calendar.BreakInput>>()],
  run: calendar.enterBreak,
  wakesWorker: true,
});

export const removeBreak = defineAction({ takes: [whole], run: calendar.removeBreak, wakesWorker: true });

/** Who would join today's list and who would leave it; nothing is saved. */
export const previewWeights = defineAction({
  takes: [form<Record<string, string>>()],
  run: previewSetting,
  refreshes: false,
});

export const saveSetting = defineAction({
  takes: [form<Record<string, string>>()],
  run: settings.saveSetting,
  wakesWorker: true,
});

export const backToSetting = defineAction({
  takes: [whole, form<FormOf<settings.BackInput>>()],
  run: settings.backToSetting,
  wakesWorker: true,
});

export const chooseForFile = defineAction({
  takes: [whole, form<Record<string, string>>()],
  run: offered.chooseForFile,
});

export const chooseColumn = defineAction({ takes: [whole, whole, text], run: offered.chooseColumn });

export const chooseItem = defineAction({ takes: [whole, text, text], run: offered.chooseItem });

export const leaveOut = defineAction({ takes: [whole], run: offered.leaveOut });

export const forgetShape = defineAction({ takes: [text, text], run: offered.forgetShape });

export const takeOffered = defineAction({ takes: [], run: offered.takeOffered, wakesWorker: true });

/** Says who somebody in files is: a learner's record, a new one, or nobody. */
export const settleWaiting = defineAction({
  takes: [whole, text, text],
  run: (runtime, viewer, courseId, folded, who) =>
    waiting.settleWaiting(runtime, viewer, courseId, folded, who === 'new' || who === 'nobody' ? who : Number(who)),
  wakesWorker: true,
});

export const settleProvisional = defineAction({
  takes: [text, whole, form<Record<string, string>>()],
  run: provisional.settleProvisional,
  wakesWorker: true,
});

export const bringBackDropped = defineAction({ takes: [whole], run: provisional.bringBackDropped, wakesWorker: true });

/** Sets how long what is kept of people is kept; it holds in a day. */
export const setRetention = defineAction({
  takes: [form<Record<string, string>>()],
  run: retention.setRetention,
});

export const takeBackRetention = defineAction({ takes: [], run: retention.takeBackRetention });

/** Has a finished course archived. */
export const askArchive = defineAction({ takes: [form<Record<string, string>>()], run: archive.askArchive });

export const takeBackArchive = defineAction({ takes: [text], run: archive.takeBackArchive });
