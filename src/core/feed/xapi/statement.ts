/**
 * Statements of the Experience API (IEEE 9274.1.1; 1.0.3 and 2.0): is one well-formed?
 * The standard has a store refuse what is not, whole batches included.
 */
import { EARLIEST } from '@/core/imports/validators';
import {
  extensions,
  firstFault,
  isBoolean,
  isDuration,
  isIri,
  isLanguage,
  isMailto,
  isNumber,
  isObject,
  isSha1,
  isString,
  isTimestamp,
  isUuid,
  join,
  languageMap,
  listOf,
  must,
  shape,
  type Check,
  type Json,
  type JsonObject,
  type StatementFault,
  instantOf,
} from './values';

export const VOIDED = 'http://adlnet.gov/expapi/verbs/voided';

const iri = must(isIri, 'is not an IRI');
const uuid = must(isUuid, 'is not a UUID');
const text = must(isString, 'is not a text');
const yesNo = must(isBoolean, 'is not true or false');
const number = must(isNumber, 'is not a number');
const timestamp = must(isTimestamp, 'is not an ISO 8601 instant');
const timeOfActivity = must(
  (value) => isTimestamp(value) && instantOf(String(value)) >= EARLIEST,
  'is not an ISO 8601 instant since 1990',
);
const oneOf = (...values: string[]) =>
  must((value) => values.includes(value as string), `is not ${values.join(' or ')}`);

const IDENTIFIERS = ['mbox', 'mbox_sha1sum', 'openid', 'account'];

const actorShape = shape({
  may: {
    objectType: oneOf('Agent', 'Group'),
    name: text,
    mbox: must(isMailto, 'is not a mailto address'),
    mbox_sha1sum: must(isSha1, 'is not a SHA-1 sum'),
    openid: must(isIri, 'is not a URI'),
    account: shape({ may: { homePage: iri, name: text }, must: ['homePage', 'name'] }),
    member: (value, path) => listOf(agent)(value, path),
  },
});

/** One person or group, by exactly one identifier (a group of named members by none). */
const actor: Check = (value, path) => {
  const fault = actorShape(value, path);
  if (fault) return fault;
  const parsedObject = value as JsonObject;
  const known = IDENTIFIERS.filter((name) => Object.hasOwn(parsedObject, name));
  const isGroup = parsedObject.objectType === 'Group';
  if (known.length > 1) return { path: join(path, known[1]), reason: 'stands beside another identifier' };
  if (!isGroup && Object.hasOwn(parsedObject, 'member'))
    return { path: join(path, 'member'), reason: 'belongs to a group' };
  if (known.length === 0 && !(isGroup && Array.isArray(parsedObject.member) && parsedObject.member.length > 0)) {
    return { path, reason: `has none of ${IDENTIFIERS.join(', ')}` };
  }
  return null;
};

const agent: Check = (value, path) =>
  isObject(value) && value.objectType === 'Group' ? { path, reason: 'is a group' } : actor(value, path);

const group: Check = (value, path) =>
  isObject(value) && value.objectType === 'Group' ? actor(value, path) : { path, reason: 'is not a group' };

const verb = shape({ may: { id: iri, display: languageMap }, must: ['id'] });

const INTERACTIONS = [
  'true-false',
  'choice',
  'fill-in',
  'long-fill-in',
  'matching',
  'performance',
  'sequencing',
  'likert',
  'numeric',
  'other',
];
const components = listOf(shape({ may: { id: text, description: languageMap }, must: ['id'] }));

const activity = shape({
  may: {
    objectType: oneOf('Activity'),
    id: iri,
    definition: shape({
      may: {
        name: languageMap,
        description: languageMap,
        type: iri,
        moreInfo: iri,
        interactionType: oneOf(...INTERACTIONS),
        correctResponsesPattern: listOf(text),
        choices: components,
        scale: components,
        source: components,
        target: components,
        steps: components,
        extensions,
      },
    }),
  },
  must: ['id'],
});

const reference = shape({ may: { objectType: oneOf('StatementRef'), id: uuid }, must: ['objectType', 'id'] });

const object: Check = (value, path) => {
  if (!isObject(value)) return { path, reason: 'is not an object' };
  switch (value.objectType ?? 'Activity') {
    case 'Activity':
      return activity(value, path);
    case 'Agent':
    case 'Group':
      return actor(value, path);
    case 'StatementRef':
      return reference(value, path);
    case 'SubStatement':
      return subStatement(value, path);
    default:
      return { path: join(path, 'objectType'), reason: 'is no kind of object' };
  }
};

const score: Check = (value, path) =>
  firstFault([
    () => shape({ may: { scaled: number, raw: number, min: number, max: number } })(value, path),
    () => {
      const { scaled, raw, min, max } = value as Record<string, number | undefined>;
      if (scaled !== undefined && (scaled < -1 || scaled > 1)) {
        return { path: join(path, 'scaled'), reason: 'does not lie between -1 and 1' };
      }
      const within = raw === undefined || ((min === undefined || raw >= min) && (max === undefined || raw <= max));
      return within ? null : { path: join(path, 'raw'), reason: 'does not lie between min and max' };
    },
  ]);

const result = shape({
  may: {
    score,
    success: yesNo,
    completion: yesNo,
    response: text,
    duration: must(isDuration, 'is not an ISO 8601 duration'),
    extensions,
  },
});

const activities: Check = (value, path) =>
  Array.isArray(value) ? listOf(activity)(value, path) : activity(value, path);
const relevant = listOf(iri);

const context = shape({
  may: {
    registration: uuid,
    instructor: actor,
    team: group,
    contextActivities: shape({
      may: { parent: activities, grouping: activities, category: activities, other: activities },
    }),
    contextAgents: listOf(
      shape({
        may: { objectType: oneOf('contextAgent'), agent, relevantTypes: relevant },
        must: ['objectType', 'agent'],
      }),
    ),
    contextGroups: listOf(
      shape({
        may: { objectType: oneOf('contextGroup'), group, relevantTypes: relevant },
        must: ['objectType', 'group'],
      }),
    ),
    revision: text,
    platform: text,
    language: must(isLanguage, 'is not a language tag'),
    statement: reference,
    extensions,
  },
});

/** Only attachments that are kept elsewhere: their data would come as multipart, which is not taken. */
const attachments = listOf(
  shape({
    may: {
      usageType: iri,
      display: languageMap,
      description: languageMap,
      contentType: text,
      length: must((value) => isNumber(value) && Number.isInteger(value) && value >= 0, 'is not a length in bytes'),
      sha2: text,
      fileUrl: iri,
    },
    must: ['usageType', 'display', 'contentType', 'length', 'sha2', 'fileUrl'],
  }),
);

/** Revision and platform are said of activities alone. */
const fits: Check = (value, path) => {
  const parsedObject = value as JsonObject;
  const about = isObject(parsedObject.object) ? (parsedObject.object.objectType ?? 'Activity') : 'Activity';
  if (about === 'Activity' || !isObject(parsedObject.context)) return null;
  const extra = ['revision', 'platform'].find((name) => Object.hasOwn(parsedObject.context as JsonObject, name));
  return extra ? { path: join(path, `context.${extra}`), reason: 'is said of an activity alone' } : null;
};

const PARTS = { actor, verb, object, result, context, timestamp: timeOfActivity, attachments };

const subStatement: Check = (value, path) =>
  firstFault([
    () =>
      shape({ may: { ...PARTS, objectType: oneOf('SubStatement') }, must: ['actor', 'verb', 'object'] })(value, path),
    () => {
      const inner = (value as JsonObject).object;
      const nested = isObject(inner) && inner.objectType === 'SubStatement';
      return nested ? { path: join(path, 'object'), reason: 'is a statement within a statement within one' } : null;
    },
    () => fits(value, path),
  ]);

const whole = shape({
  may: {
    ...PARTS,
    id: uuid,
    stored: timestamp,
    authority: actor,
    version: must((value) => isString(value) && /^(1\.0|2\.0)(\.\d+)?$/.test(value), 'is not 1.0.x or 2.0.x'),
  },
  must: ['actor', 'verb', 'object'],
});

/** What is wrong with a statement; null for one that is well-formed. */
export function statementFault(value: Json): StatementFault | null {
  return firstFault([
    () => whole(value, ''),
    () => fits(value, ''),
    () => {
      const { verb: said, object: about } = value as { verb: JsonObject; object: JsonObject };
      if (said.id !== VOIDED || about.objectType === 'StatementRef') return null;
      return { path: 'object', reason: 'is not the reference to a statement that a voiding one needs' };
    },
  ]);
}
