import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { OWED_LIST } from '@/server/work/work-due-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(OWED_LIST, asker, query));
