import { xapi } from '@/server/xapi/http';
import { getStatements } from '@/server/xapi/read';
import { postStatements, putStatement } from '@/server/xapi/take';

export const GET = xapi(getStatements);
export const POST = xapi(postStatements);
export const PUT = xapi(putStatement);
