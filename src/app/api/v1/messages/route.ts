import { MESSAGES } from '@/server/contact/messages-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(MESSAGES, asker, query));
