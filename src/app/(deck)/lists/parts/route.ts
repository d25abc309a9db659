import { countedChoices } from '@/data/courses/courses';
import { own } from '@/server/request/api';

/** The parts of one's caseload, for the menu that chooses one. */
export const GET = own(async ({ runtime, viewer }) => {
  const choices = await countedChoices(runtime.db, viewer);
  return Response.json(choices.map(({ key, label, learners }) => ({ key, label, learners })));
});
