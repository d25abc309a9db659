import { problem } from '@/server/request/api';

/** An address of the API that there is not, whatever is done there. */
function nothing(): Response {
  return problem(404, 'Not found', 'There is nothing at this address of the API.');
}

export { nothing as DELETE, nothing as GET, nothing as PATCH, nothing as POST, nothing as PUT };
