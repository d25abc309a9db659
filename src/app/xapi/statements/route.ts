import { resource } from '@/server/feed/xapi/http';
import { getStatements } from '@/server/feed/xapi/read';
import { postStatements, putStatement } from '@/server/feed/xapi/take';

const statements = resource({ GET: getStatements, POST: postStatements, PUT: putStatement });

export { statements as GET, statements as POST, statements as PUT };
