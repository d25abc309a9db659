import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { SESSIONS } from '@/server/sessions/sessions-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(SESSIONS, asker, query));
