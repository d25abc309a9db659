import { QUESTIONS } from '@/server/grades/questions-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(QUESTIONS, asker, query));
