import { takeBackArchive } from '@/server/archive/archive';
import { api } from '@/server/request/api';

/** Takes an archive back that has not begun. */
export const DELETE = api<{ course: string }>(
  async ({ runtime, viewer }, { course }) => {
    await takeBackArchive(runtime, viewer, course);
    return new Response(null, { status: 204 });
  },
  { lead: true },
);
