import { api } from '@/server/request/api';
import { attendanceAnswer } from '@/server/sessions/session-files';

export const GET = api<{ sessionId: string }>(async ({ runtime, viewer, query }, { sessionId }) =>
  attendanceAnswer(runtime, viewer, sessionId, query),
);
