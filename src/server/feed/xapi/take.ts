/** Statements on their way in: one, a batch, or one under an id that its sender chose. */
import { randomUUID } from 'node:crypto';
import { withLists } from '@/core/feed/xapi/read';
import { statementFault } from '@/core/feed/xapi/statement';
import { isObject, isUuid, type Json, type JsonObject } from '@/core/feed/xapi/values';
import { rawTransaction } from '@/data/db';
import { StatementConflict, settleWaiting, storeStatements, type IncomingStatement } from '@/data/feed/xapi/statements';
import type { Runtime } from '@/server/runtime';
import { Refused, readJsonText, readText, respond, type XapiContext } from './http';

/** Most that one request may carry: they are stored at once, and others wait while they are. */
const MOST_STATEMENTS = 1000;

async function readJson(request: Request): Promise<Json> {
  const type = request.headers.get('content-type') ?? '';
  if (/^multipart\/mixed/i.test(type)) {
    throw new Refused(400, 'Attachments are taken by their fileUrl; their data is not stored here.');
  }
  if (!/^application\/json\b/i.test(type)) throw new Refused(400, 'The Content-Type is not application/json.');
  return readJsonText(await readText(request));
}

/** A well-formed statement with what a store adds, but for when it is stored. */
function complete(value: Json, index: number | null, context: XapiContext): IncomingStatement {
  const fault = statementFault(value);
  if (fault) {
    const where = [index === null ? '' : `statement ${index}`, fault.path].filter(Boolean).join(': ');
    throw new Refused(400, `${where || 'The statement'} ${fault.reason}.`);
  }
  const sent = withLists(value as JsonObject);
  const uuid = String(sent.id ?? randomUUID()).toLowerCase();
  const authority = {
    objectType: 'Agent',
    account: { homePage: new URL('/xapi', context.request.url).href, name: context.key },
  };
  const version = sent.version ?? (context.version === '1.0.3' ? '1.0.0' : '2.0.0');
  return { uuid, body: { ...sent, id: uuid, authority, version } };
}

async function store({ runtime, sourceId }: XapiContext, incoming: readonly IncomingStatement[]): Promise<void> {
  const { db, zone, clock } = runtime;
  try {
    await rawTransaction(db, (raw) => storeStatements(raw, incoming, { sourceId, zone, now: clock.now() }));
  } catch (error) {
    if (!(error instanceof StatementConflict)) throw error;
    throw new Refused(409, `Statement ${error.message} is there already and says something else. Nothing was stored.`);
  }
}

/** `POST statements`: one or many, all of them or none. */
export async function postStatements(context: XapiContext): Promise<Response> {
  if ([...context.params.keys()].length > 0) throw new Refused(400, 'POST takes no parameters.');
  const body = await readJson(context.request);
  const many = Array.isArray(body);
  if (many && body.length > MOST_STATEMENTS)
    throw new Refused(413, `A batch holds at most ${MOST_STATEMENTS} statements.`);
  const incoming = many ? body.map((one, index) => complete(one, index, context)) : [complete(body, null, context)];
  const ids = incoming.map(({ uuid }) => uuid);
  const twice = ids.find((id, index) => ids.indexOf(id) !== index);
  if (twice) throw new Refused(400, `The id ${twice} stands in the batch twice.`);
  await store(context, incoming);
  return respond(context, 200, ids);
}

/** `PUT statements?statementId=`: one under its sender's id. */
export async function putStatement(context: XapiContext): Promise<Response> {
  const id = onlyParam(context.params, 'statementId');
  if (!isUuid(id)) throw new Refused(400, 'statementId is not a UUID.');
  const body = await readJson(context.request);
  if (!isObject(body)) throw new Refused(400, 'PUT takes one statement.');
  if (body.id !== undefined && String(body.id).toLowerCase() !== id.toLowerCase()) {
    throw new Refused(400, 'The id of the statement is not that of the address.');
  }
  await store(context, [complete({ ...body, id }, null, context)]);
  return respond(context, 204);
}

function onlyParam(params: URLSearchParams, name: string): string {
  const other = [...params.keys()].find((key) => key !== name);
  if (other) throw new Refused(400, `${other} is no parameter of this request.`);
  const value = params.get(name);
  if (value === null) throw new Refused(400, `${name} is missing.`);
  return value;
}

/** Statements tried in one transaction. */
const STEP = 200;

/** Takes in the statements whose people and items have come by now. Returns how many. */
export async function takeWaiting({ db, zone, clock }: Pick<Runtime, 'db' | 'zone' | 'clock'>): Promise<number> {
  let [after, taken]: [number | null, number] = [0, 0];
  while (after !== null) {
    const from: number = after;
    const step = await rawTransaction(db, (raw) => settleWaiting(raw, { zone, now: clock.now() }, from, STEP));
    taken += step.taken;
    after = step.next;
  }
  return taken;
}
