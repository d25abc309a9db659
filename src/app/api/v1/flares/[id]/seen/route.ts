import { FLARES, flareShown, seeFlare } from '@/server/contact/flares';
import { api } from '@/server/request/api';
import { figuresOf } from '@/server/request/list';

export const POST = api<{ id: string }>(async ({ runtime, viewer }, { id }) => {
  await seeFlare(runtime, viewer, Number(id));
  const at = { now: runtime.clock.now(), zone: runtime.zone };
  return Response.json(figuresOf(FLARES, await flareShown(runtime, viewer, Number(id)), at));
});
