import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { TO_GRADE } from '@/server/work/to-grade-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(TO_GRADE, asker, query));
