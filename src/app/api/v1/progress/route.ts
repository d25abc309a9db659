import { PROGRESS } from '@/server/completion/progress-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(PROGRESS, asker, query));
