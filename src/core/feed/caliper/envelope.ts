/**
 * Envelopes of Caliper Analytics 1.2 (1EdTech), as sensors send them: is one well-formed, and which events are in it?
 * Of an event only what every event has is looked at; what more it says is read as far as it is understood.
 */
import { EARLIEST } from '@/core/imports/validators';
import {
  firstFault,
  instantOf,
  isIri,
  isObject,
  isString,
  isTimestamp,
  isUuid,
  join,
  type Check,
  type Json,
  type JsonObject,
  type StatementFault,
} from '../xapi/values';

/** Versions of the standard whose events are understood, as `dataVersion` names them. */
const VERSION = /^https?:\/\/purl\.imsglobal\.org\/ctx\/caliper\/v1p[12]$/;

/** The UUID of an event's id, which is `urn:uuid:…`; null for any other. */
export function eventUuid(id: Json): string | null {
  const uuid = isString(id) && id.toLowerCase().startsWith('urn:uuid:') ? id.slice('urn:uuid:'.length) : '';
  return isUuid(uuid) ? uuid.toLowerCase() : null;
}

/** An entity stands whole, with its id, or is named by its IRI alone. */
const entity: Check = (value, path) => {
  const id = isObject(value) ? value.id : value;
  return id !== undefined && isIri(id) ? null : { path, reason: 'is neither an IRI nor an entity with one as its id' };
};

const event: Check = (value, path) => {
  const given = value as JsonObject;
  const at = (name: string, test: (own: Json) => boolean, reason: string) => () => {
    const own = given[name];
    if (own === undefined || own === null) return { path: join(path, name), reason: 'is missing' };
    return test(own) ? null : { path: join(path, name), reason };
  };
  return firstFault([
    at('id', (id) => eventUuid(id) !== null, 'is not a UUID as urn:uuid:…'),
    at('action', (action) => isString(action) && action.trim() !== '', 'is not a text'),
    at(
      'eventTime',
      (time) => isTimestamp(time) && instantOf(time) >= EARLIEST,
      'is not an ISO 8601 instant since 1990',
    ),
    ...['actor', 'object'].map((name) => () => {
      const own = given[name];
      if (own === undefined || own === null) return { path: join(path, name), reason: 'is missing' };
      return entity(own, join(path, name));
    }),
  ]);
};

/** Is something in an envelope an event? Else it describes an entity, and says nothing that happened. */
function isEvent(value: JsonObject): boolean {
  return isString(value.type) && value.type.endsWith('Event');
}

/** What an envelope says, or what is wrong with it. */
export type ReadEnvelope =
  { fault: StatementFault; isOfAnotherVersion: boolean } | { fault: null; events: JsonObject[]; sensor: string };

/**
 * Reads an envelope.
 *
 * @example readEnvelope({ sensor: 'https://s.example', sendTime, dataVersion: '…/v1p2', data: [] }) // { fault: null, events: [], … }
 */
export function readEnvelope(value: Json): ReadEnvelope {
  const wrong = (path: string, reason: string, isOfAnotherVersion = false): ReadEnvelope => ({
    fault: { path, reason },
    isOfAnotherVersion,
  });
  if (!isObject(value)) return wrong('', 'is not an object');
  const { sensor, sendTime, dataVersion, data } = value;
  if (sensor === undefined || !isIri(sensor)) return wrong('sensor', 'is not an IRI');
  if (sendTime === undefined || !isTimestamp(sendTime)) return wrong('sendTime', 'is not an ISO 8601 instant');
  if (!isString(dataVersion ?? null)) return wrong('dataVersion', 'is missing');
  if (!VERSION.test(dataVersion as string)) return wrong('dataVersion', 'is not 1.2 or 1.1 of Caliper', true);
  if (!Array.isArray(data)) return wrong('data', 'is not a list');
  const events: JsonObject[] = [];
  for (const [index, one] of data.entries()) {
    const path = `data[${index}]`;
    if (!isObject(one) || !isString(one.type ?? null)) return wrong(path, 'is no event or entity with a type');
    if (!isEvent(one)) continue;
    const fault = event(one, path);
    if (fault) return { fault, isOfAnotherVersion: false };
    events.push(one);
  }
  return { fault: null, events, sensor };
}
