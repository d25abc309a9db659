import { countedChoices } from '@/server/courses/reads';
import { own } from '@/server/request/api';

/** The parts of one's caseload, for the menu that chooses one. */
export const GET = own(async ({ runtime, viewer }) => {
  const choices = await countedChoices(runtime, viewer);
  return Response.json(choices.map(({ key, label, learners }) => ({ key, label, learners })));
});
