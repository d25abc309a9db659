import { own } from '@/server/request/api';
import { NotFound } from '@/server/request/input';
import { exportProgress } from '@/server/access/log-export';

/** How far an export of one's own has got. */
export const GET = own(
  async ({ viewer, query }) => {
    const progress = exportProgress(viewer.staffId, query.export ?? '');
    if (!progress) throw new NotFound('No such export');
    const { done, total, about, state } = progress;
    return Response.json({ done, total, about, state });
  },
  { byItself: true },
);
