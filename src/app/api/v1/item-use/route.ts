import { REACH } from '@/server/item-use/item-use';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(REACH, asker, query));
