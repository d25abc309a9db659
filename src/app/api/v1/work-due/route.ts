import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { WORK_DUE } from '@/server/work/work-due-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(WORK_DUE, asker, query));
