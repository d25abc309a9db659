import { COURSES } from '@/server/courses/courses-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(COURSES, asker, query));
