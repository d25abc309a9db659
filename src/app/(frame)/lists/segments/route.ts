import { countedChoices } from '@/server/courses/reads';
import { caseloadsOf } from '@/server/people/caseloads';
import { own } from '@/server/request/api';

/** The parts of what one sees, for the menu that chooses one: one's caseloads first. */
export const GET = own(async ({ runtime, viewer }) => {
  const [caseloads, choices] = await Promise.all([caseloadsOf(runtime, viewer), countedChoices(runtime, viewer)]);
  return Response.json([
    ...caseloads.map(({ id, name, learners }) => ({ key: `caseload:${id}`, label: name, learners })),
    ...choices.map(({ key, label, learners }) => ({ key, label, learners })),
  ]);
});
