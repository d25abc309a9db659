import { GRADES } from '@/server/grades/grades-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(GRADES, asker, query));
