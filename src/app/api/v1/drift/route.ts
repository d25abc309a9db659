import { DRIFT } from '@/server/drift/watch-list';
import { readAnswer } from '@/server/drift/until-read';
import { api } from '@/server/request/api';

export const GET = api(async ({ query, ...asker }) => readAnswer(DRIFT, asker, query));
