import { VERSIONS } from '@/server/feed/xapi/http';

/** Which versions are spoken: for anybody who asks. */
export function GET(): Response {
  return Response.json({ version: VERSIONS, extensions: {} }, { headers: { 'x-experience-api-version': VERSIONS[1] } });
}
