import { api } from '@/server/request/api';
import { hasAndHasNot } from '@/server/item-use/who-did';

export const GET = api(async ({ runtime, viewer, query }) => Response.json(await hasAndHasNot(runtime, viewer, query)));
