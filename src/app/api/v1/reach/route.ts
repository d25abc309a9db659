import { REACH } from '@/server/reach/reach';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(REACH, asker, query));
