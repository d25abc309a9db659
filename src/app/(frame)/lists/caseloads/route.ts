import { namesOfOwn } from '@/server/people/caseloads';
import { own } from '@/server/request/api';

/** One's own caseloads by name, for putting somebody in one. */
export const GET = own(async ({ runtime, viewer }) => Response.json(await namesOfOwn(runtime, viewer)));
