import { own } from '@/server/request/api';
import { attendanceAnswer } from '@/server/sessions/session-files';

/** A session's attendance as a file for whoever is signed in. */
export const GET = own<{ sessionId: string }>(async ({ runtime, viewer, query }, { sessionId }) =>
  attendanceAnswer(runtime, viewer, sessionId, query),
);
