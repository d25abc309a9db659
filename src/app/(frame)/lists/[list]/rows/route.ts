import { listNamed } from '@/server/lists';
import { own } from '@/server/request/api';
import { laterRows } from '@/server/request/list';

/** The next rows of a list, from the place after which they come. */
export const GET = own<{ list: string }>(async ({ query, ...asker }, { list }) =>
  laterRows(listNamed(list), asker, query),
);
