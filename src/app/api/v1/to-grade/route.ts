import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { WAITING } from '@/server/work/to-grade-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(WAITING, asker, query));
