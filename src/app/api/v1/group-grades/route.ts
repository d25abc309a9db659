import { GROUP_GRADES } from '@/server/grades/analysis';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(GROUP_GRADES, asker, query));
