import { own } from '@/server/request/api';
import { madeFile } from '@/server/reports/rows-answer';

/** A long report that has been made. */
export const GET = own<{ id: string }>(async ({ runtime, viewer }, { id }) => madeFile(runtime, viewer, id));
