import { WATCH } from '@/server/drift/watch-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(WATCH, asker, query));
