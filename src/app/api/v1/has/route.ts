import { api } from '@/server/api';
import { hasAndHasNot } from '@/server/has';

export const GET = api(async ({ runtime, viewer, query }) => Response.json(await hasAndHasNot(runtime, viewer, query)));
