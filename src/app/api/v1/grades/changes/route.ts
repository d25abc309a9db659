import { CHANGES } from '@/server/grades/changes-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(CHANGES, asker, query));
