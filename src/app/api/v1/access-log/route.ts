import { api } from '@/server/api';
import { logResponse } from '@/server/log-response';

export const GET = api(async ({ runtime, viewer, query }) => logResponse(runtime, viewer, query));
