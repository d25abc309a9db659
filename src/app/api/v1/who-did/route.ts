import { api } from '@/server/request/api';
import { whoDid } from '@/server/item-use/who-did';

export const GET = api(async ({ runtime, viewer, query }) => Response.json(await whoDid(runtime, viewer, query)));
