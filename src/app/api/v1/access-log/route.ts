import { api } from '@/server/request/api';
import { logResponse } from '@/server/access/log-response';

export const GET = api(async ({ runtime, viewer, query }) => logResponse(runtime, viewer, query));
