import { own } from '@/server/request/api';
import { linkFile } from '@/server/reports/rows-answer';

/** What a link chooses as a file, while it is short. */
export const GET = own(async ({ query, runtime, viewer }) => linkFile(runtime, viewer, query));
