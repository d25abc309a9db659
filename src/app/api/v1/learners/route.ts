import { readAnswer } from '@/server/drift/until-read';
import { LEARNERS } from '@/server/people/learner-list';
import { api } from '@/server/request/api';

export const GET = api(async ({ query, ...asker }) => readAnswer(LEARNERS, asker, query));
