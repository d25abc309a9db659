import { metricsText } from '@/server/metrics/metrics';
import { api } from '@/server/request/api';

export const dynamic = 'force-dynamic';

/** Figures for whoever keeps it running; for leads' tokens and the installation's. */
export const GET = api(
  async ({ runtime }) => {
    const { type, text } = await metricsText(runtime);
    return new Response(text, { headers: { 'content-type': type, 'cache-control': 'no-store' } });
  },
  { lead: true },
);
