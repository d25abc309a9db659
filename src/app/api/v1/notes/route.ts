import { NOTES } from '@/server/contact/notes-list';
import { api } from '@/server/request/api';
import { listAnswer } from '@/server/request/list';

export const GET = api(async ({ query, ...asker }) => listAnswer(NOTES, asker, query));
