import { api } from '@/server/request/api';
import { rowsAnswer } from '@/server/reports/rows-answer';

export const GET = api<{ id: string }>(async ({ runtime, viewer, query }, { id }) =>
  rowsAnswer(runtime, viewer, id, query),
);
