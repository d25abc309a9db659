/** The endpoint of Caliper: envelopes that sensors send, into the same feed as statements. */
import { createHash } from 'node:crypto';
import { readEnvelope, eventUuid } from '@/core/feed/caliper/envelope';
import { statementOfEvent } from '@/core/feed/caliper/translate';
import { rawTransaction } from '@/data/db';
import { storeStatements, type IncomingStatement } from '@/data/feed/xapi/statements';
import { asProblem, problem } from '@/server/request/api';
import { runtime } from '@/server/runtime';
import { sourceOf } from '../credential';
import { Refused, readJsonText, readText } from '../xapi/http';

/** Most events of one envelope: they are stored at once, and others wait while they are. */
const MOST_EVENTS = 1000;

/** A UUID made of an IRI. */
function uuidOf(iri: string): string {
  const hex = createHash('sha1').update(iri).digest('hex');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-5${hex.slice(13, 16)}-a${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}

/**
 * Takes an envelope with all that is in it, or nothing. An event that came before, under its id, changes nothing. Entities are
 * passed over: they say nothing that happened.
 */
export async function postEnvelope(request: Request): Promise<Response> {
  const opened = await runtime();
  const { db, zone, clock } = opened;
  const source = await sourceOf(opened, 'caliper', request);
  if (!source) {
    const refused = problem(401, 'A credential is needed', 'Send the secret of a credential for Caliper as Bearer.');
    refused.headers.set('www-authenticate', 'Bearer realm="Lee Shore"');
    return refused;
  }
  if (!/^application\/(ld\+)?json\b/i.test(request.headers.get('content-type') ?? ''))
    return problem(415, 'Not JSON', 'The Content-Type is not application/json.');
  try {
    const envelope = readEnvelope(readJsonText(await readText(request)));
    if (envelope.fault !== null) {
      const { path, reason } = envelope.fault;
      const status = envelope.isOfAnotherVersion ? 422 : 400;
      return problem(
        status,
        'The envelope cannot be taken',
        `${path || 'The envelope'} ${reason}. Nothing was stored.`,
      );
    }
    if (envelope.events.length > MOST_EVENTS)
      throw new Refused(413, `An envelope holds at most ${MOST_EVENTS} events.`);
    const account = { homePage: new URL('/caliper', request.url).href, name: source.key };
    const incoming = new Map(
      envelope.events.map((event): [string, IncomingStatement] => {
        const uuid = eventUuid(event.id)!;
        const authority = { objectType: 'Agent', account };
        return [uuid, { uuid, body: { ...statementOfEvent(event, uuidOf), id: uuid, authority, version: '2.0.0' } }];
      }),
    );
    const context = { sourceId: source.sourceId, zone, now: clock.now() };
    const { stored, waiting } = await rawTransaction(db, (raw) =>
      storeStatements(raw, [...incoming.values()], context, true),
    );
    return Response.json({ stored, waiting });
  } catch (error) {
    if (error instanceof Refused) return problem(error.status, 'The envelope cannot be taken', error.message);
    return asProblem(opened, error);
  }
}
