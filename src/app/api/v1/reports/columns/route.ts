import { api } from '@/server/request/api';
import { columnsShown } from '@/server/reports/columns';

export const GET = api(async () => {
  const data = columnsShown();
  return Response.json({ data, next: null, total: data.length });
});
