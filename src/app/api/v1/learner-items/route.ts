import { LEARNER_ITEMS } from '@/server/completion/learner-course';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(LEARNER_ITEMS, asker, query));
