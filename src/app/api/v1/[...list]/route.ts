import { listAt } from '@/server/lists';
import { api, onlyBy, problem } from '@/server/request/api';
import { readAnswer } from '@/server/drift/until-read';

interface Params {
  list: string[];
}

/** Every list there is, by its address: a list that is declared has one, and nothing else has. */
export const GET = api<Params>(async ({ query, ...asker }, { list }) =>
  readAnswer(listAt(list.join('/')), asker, query),
);

/** A list is only read. */
async function refuse(_request: Request, { params }: { params: Promise<Params> }): Promise<Response> {
  try {
    listAt((await params).list.join('/'));
    return onlyBy('GET')();
  } catch {
    return problem(404, 'Not found', 'There is nothing at this address of the API.');
  }
}

export { refuse as DELETE, refuse as PATCH, refuse as POST, refuse as PUT };
