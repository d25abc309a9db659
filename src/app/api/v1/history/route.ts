import { HISTORY } from '@/server/completion/history';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(HISTORY, asker, query));
