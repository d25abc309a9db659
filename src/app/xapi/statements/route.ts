import { resource } from '@/server/xapi/http';
import { getStatements } from '@/server/xapi/read';
import { postStatements, putStatement } from '@/server/xapi/take';

const statements = resource({ GET: getStatements, POST: postStatements, PUT: putStatement });

export { statements as GET, statements as POST, statements as PUT };
