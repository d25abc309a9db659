import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';
import { ATTENDANCE } from '@/server/sessions/attendance-list';

export const GET = api(async ({ query, ...asker }) => listAnswer(ATTENDANCE, asker, query));
