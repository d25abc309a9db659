'use server';

import * as flares from '@/server/contact/flares';
import { defineAction, form, whole } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';

export type FlareForm = FormOf<flares.FlareInput>;
export type FlareEndForm = FormOf<flares.FlareEndInput>;

export const raiseFlare = defineAction({ takes: [whole, form<FlareForm>()], run: flares.raiseFlare });

export const seeFlare = defineAction({ takes: [whole], run: flares.seeFlare });

export const endFlare = defineAction({ takes: [whole, form<FlareEndForm>()], run: flares.endFlare });
