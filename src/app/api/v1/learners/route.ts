import { LEARNERS } from '@/server/people/learner-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(LEARNERS, asker, query));
