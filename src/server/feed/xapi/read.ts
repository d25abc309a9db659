/** Statements read back: by id, or by the standard's filters, a page at a time. */
import { IsBooleanString, IsIn, IsOptional, Matches, MaxLength } from 'class-validator';
import { actorKey } from '@/core/feed/xapi/read';
import { STATEMENT_FORMATS, acceptedLanguages, formatStatement, type StatementFormat } from '@/core/feed/xapi/format';
import { instantOf, isIri, isObject, isTimestamp, isUuid, type JsonObject } from '@/core/feed/xapi/values';
import { findStatement, findStatements, type StatementFilter } from '@/data/feed/xapi/find';
import { InvalidInput, readInput } from '@/server/request/input';
import { Refused, respond, type XapiContext } from './http';

/** Most statements in one answer; also what `limit=0` means. */
const MOST = 500;

const yesNo = { message: 'is not true or false' };

class StatementQuery {
  @IsOptional() @MaxLength(10_000) agent?: string;
  @IsOptional() @MaxLength(2000) verb?: string;
  @IsOptional() @MaxLength(2000) activity?: string;
  @IsOptional() @MaxLength(100) registration?: string;
  @IsOptional() @IsBooleanString(yesNo) related_activities?: string;
  @IsOptional() @IsBooleanString(yesNo) related_agents?: string;
  @IsOptional() @MaxLength(100) since?: string;
  @IsOptional() @MaxLength(100) until?: string;
  @IsOptional() @Matches(/^\d{1,9}$/, { message: 'is not a number' }) limit?: string;
  @IsOptional()
  @IsIn(STATEMENT_FORMATS, { message: `is not one of ${STATEMENT_FORMATS.join(', ')}` })
  format?: StatementFormat;
  @IsOptional() @IsBooleanString(yesNo) attachments?: string;
  @IsOptional() @IsBooleanString(yesNo) ascending?: string;
  @IsOptional() @MaxLength(100) statementId?: string;
  @IsOptional() @MaxLength(100) voidedStatementId?: string;
  /** The place that a `more` goes on from. */
  @IsOptional() @Matches(/^\d{1,15}$/, { message: 'is not a place given by this list' }) after?: string;
}

const KNOWN = new Set([
  'agent',
  'verb',
  'activity',
  'registration',
  'related_activities',
  'related_agents',
  'since',
  'until',
  'limit',
  'format',
  'attachments',
  'ascending',
  'statementId',
  'voidedStatementId',
  'after',
]);

function readQuery(params: URLSearchParams): StatementQuery {
  const unknown = [...params.keys()].find((name) => !KNOWN.has(name));
  if (unknown) throw new Refused(400, `${unknown} is no parameter of this request.`);
  try {
    return readInput(StatementQuery, Object.fromEntries(params));
  } catch (error) {
    if (error instanceof InvalidInput) throw new Refused(400, error.message);
    throw error;
  }
}

function readAgent(text: string): string {
  try {
    const agent = JSON.parse(text);
    if (isObject(agent) && ['mbox', 'mbox_sha1sum', 'openid', 'account'].some((name) => name in agent)) {
      return actorKey(agent);
    }
  } catch {
    // Said below.
  }
  throw new Refused(400, 'agent is not an agent or identified group in JSON.');
}

function instant(name: string, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  if (!isTimestamp(text)) throw new Refused(400, `${name} is not an ISO 8601 instant.`);
  return instantOf(text);
}

function filterOf(query: StatementQuery): StatementFilter {
  const { agent, verb, activity, registration } = query;
  for (const [name, value] of Object.entries({ verb, activity })) {
    if (value !== undefined && !isIri(value)) throw new Refused(400, `${name} is not an IRI.`);
  }
  if (registration !== undefined && !isUuid(registration)) throw new Refused(400, 'registration is not a UUID.');
  const keys: StatementFilter['keys'] = [];
  const broad = (related: string | undefined) => related === 'true';
  if (agent !== undefined) keys.push({ what: broad(query.related_agents) ? 'agent' : 'actor', key: readAgent(agent) });
  if (activity !== undefined) {
    keys.push({ what: broad(query.related_activities) ? 'activity' : 'object', key: activity });
  }
  if (verb !== undefined) keys.push({ what: 'verb', key: verb });
  if (registration !== undefined) keys.push({ what: 'registration', key: registration.toLowerCase() });
  return { keys, since: instant('since', query.since), until: instant('until', query.until) };
}

function formatter({ request }: XapiContext, { format = 'exact' }: StatementQuery) {
  const languages = acceptedLanguages(request.headers.get('accept-language'));
  return (statement: JsonObject) => formatStatement(statement, format, languages);
}

/** `GET statements`: one by its id, or those that match, with where to go on. */
export async function getStatements(context: XapiContext): Promise<Response> {
  const query = readQuery(context.params);
  const shown = formatter(context, query);
  const { statementId, voidedStatementId } = query;
  const answer =
    statementId !== undefined || voidedStatementId !== undefined
      ? await one(context, query, shown)
      : await list(context, query, shown);
  // Everything is stored before its request is answered.
  answer.headers.set('x-experience-api-consistent-through', new Date(context.runtime.clock.now()).toISOString());
  return answer;
}

async function one(context: XapiContext, query: StatementQuery, shown: (one: JsonObject) => JsonObject) {
  const { statementId, voidedStatementId } = query;
  const beside = [...context.params.keys()].filter((name) => !['attachments', 'format'].includes(name));
  if (beside.length > 1) throw new Refused(400, `${beside[1]} does not go with ${beside[0]}.`);
  const id = statementId ?? voidedStatementId!;
  if (!isUuid(id)) throw new Refused(400, `${beside[0]} is not a UUID.`);
  const isVoided = voidedStatementId !== undefined;
  const found = await findStatement(context.runtime.db, context.sourceId, id.toLowerCase(), isVoided);
  if (!found) throw new Refused(404, 'There is no such statement.');
  const answer = respond(context, 200, shown(found.body));
  answer.headers.set('last-modified', new Date(found.stored).toUTCString());
  return answer;
}

async function list(context: XapiContext, query: StatementQuery, shown: (one: JsonObject) => JsonObject) {
  const asked = Number(query.limit ?? 0);
  const limit = asked === 0 ? MOST : Math.min(asked, MOST);
  const page = {
    limit: limit + 1,
    ascending: query.ascending === 'true',
    beyond: query.after === undefined ? undefined : Number(query.after),
  };
  const found = await findStatements(context.runtime.db, context.sourceId, filterOf(query), page);
  const goesOn = found.length > limit;
  if (goesOn) found.pop();
  const last = found.at(-1);
  const next = new URLSearchParams(context.params);
  if (last) next.set('after', String(last.id));
  const statements = found.map(({ body }) => shown(body));
  return respond(context, 200, { statements, more: goesOn ? `/xapi/statements?${next}` : '' });
}
