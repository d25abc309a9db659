import { api } from '@/server/request/api';
import { hasAndHasNot } from '@/server/reach/has';

export const GET = api(async ({ runtime, viewer, query }) => Response.json(await hasAndHasNot(runtime, viewer, query)));
