/** What a statement says, in the terms of the log and of the standard's filters. */
import { VOIDED } from './statement';
import { isObject, type Json, type JsonObject } from './values';

/** How an actor is known to its source. */
export type ActorId =
  | { by: 'mail'; value: string }
  | { by: 'mail_sum'; value: string }
  | { by: 'account'; value: string }
  | { by: 'nothing'; value: string };

/** A key under which the same person or group is found again, however the rest is written. */
export function actorKey(actor: JsonObject): string {
  if (typeof actor.mbox === 'string') return actor.mbox.toLowerCase();
  if (typeof actor.mbox_sha1sum === 'string') return `sha1:${actor.mbox_sha1sum.toLowerCase()}`;
  if (typeof actor.openid === 'string') return `openid:${actor.openid}`;
  if (isObject(actor.account)) return `account:${String(actor.account.homePage)} ${String(actor.account.name)}`;
  return `group:${members(actor).map(actorKey).sort().join(' ')}`;
}

export function actorId(actor: JsonObject): ActorId {
  if (typeof actor.mbox === 'string') return { by: 'mail', value: actor.mbox.slice('mailto:'.length) };
  if (typeof actor.mbox_sha1sum === 'string') return { by: 'mail_sum', value: actor.mbox_sha1sum.toLowerCase() };
  if (isObject(actor.account)) return { by: 'account', value: String(actor.account.name) };
  return { by: 'nothing', value: actorKey(actor) };
}

function members(actor: JsonObject): JsonObject[] {
  return Array.isArray(actor.member) ? actor.member.filter(isObject) : [];
}

/** The last part of an IRI that says something: "completed" of …/verbs/completed. */
export function lastPart(iri: string): string {
  const path = iri.replace(/[?#].*$/, '').replace(/\/+$/, '');
  const last = path.split(/[/:]/).at(-1) ?? path;
  try {
    return decodeURIComponent(last);
  } catch {
    return last;
  }
}

/** The word of a verb, as the mapping of actions knows it. */
export function verbWord(verbId: string): string {
  return (
    lastPart(verbId)
      .trim()
      .toLowerCase()
      .replace(/[\s-]+/g, '_')
      .slice(0, 100) || 'unknown'
  );
}

/** What a statement can be found by, each with a key. */
export const SAID_OF = ['actor', 'agent', 'object', 'activity', 'verb', 'registration'] as const;

export interface SaidStatement {
  actor: JsonObject;
  actorKey: string;
  verb: string;
  /** The activity's IRI; null when the statement is about something else. */
  activity: string | null;
  /** Activities around it, the nearest first: parents, then groupings. */
  around: string[];
  /** The statement that this one is about; null for any other. */
  refersTo: string | null;
  /** Does it declare that statement void? */
  isVoiding: boolean;
  /**
   * Keys by which the standard's filters find it: `actor` and `object` are of who and what it is
   * about, `agent` and `activity` of everybody and everything in it.
   */
  keys: Record<(typeof SAID_OF)[number], string[]>;
}

function asList(value: Json | undefined): JsonObject[] {
  if (value === undefined) return [];
  return (Array.isArray(value) ? value : [value]).filter(isObject);
}

/** Somebody, with the members where it is a group: a group is found by whoever belongs to it. */
function withMembers(actor: JsonObject): JsonObject[] {
  return [actor, ...members(actor)];
}

/** Reads a well-formed statement. */
export function readStatement(statement: JsonObject): SaidStatement {
  const actor = statement.actor as JsonObject;
  const object = statement.object as JsonObject;
  const context = isObject(statement.context) ? statement.context : {};
  const contextActivities = isObject(context.contextActivities) ? context.contextActivities : {};
  const ids = (name: string) => asList(contextActivities[name]).map((one) => String(one.id));
  const around = [...ids('parent'), ...ids('grouping')];
  const kind = object.objectType ?? 'Activity';
  const activity = kind === 'Activity' ? String(object.id) : null;
  const about = [actor, ...(kind === 'Agent' || kind === 'Group' ? [object] : [])].flatMap(withMembers);
  const beside = [context.instructor, context.team, statement.authority]
    .concat(asList(context.contextAgents).map((one) => one.agent))
    .concat(asList(context.contextGroups).map((one) => one.group))
    .filter((one): one is JsonObject => isObject(one))
    .flatMap(withMembers);
  const inner = kind === 'SubStatement' ? readStatement(object).keys : null;
  const verb = String((statement.verb as JsonObject).id);
  const refersTo = kind === 'StatementRef' ? String(object.id).toLowerCase() : null;
  const mainActivity = activity === null ? [] : [activity];
  return {
    actor,
    actorKey: actorKey(actor),
    verb,
    activity,
    around,
    refersTo,
    isVoiding: verb === VOIDED && refersTo !== null,
    keys: {
      actor: unique(about.map(actorKey)),
      agent: unique([...about, ...beside].map(actorKey), inner?.agent),
      object: mainActivity,
      activity: unique([...mainActivity, ...around, ...ids('category'), ...ids('other')], inner?.activity),
      verb: [verb],
      registration: typeof context.registration === 'string' ? [context.registration.toLowerCase()] : [],
    },
  };
}

function unique(keys: readonly string[], more: readonly string[] = []): string[] {
  return [...new Set([...keys, ...more])];
}

/** Properties that a store adds, or that name the statement rather than say something. */
const ADDED = ['id', 'stored', 'authority', 'version'];

/** The same JSON whatever the order of properties, without what a store adds by itself. */
function canonical(statement: JsonObject, leftOut: readonly string[]): string {
  const said = Object.entries(withLists(statement)).filter(([name]) => !leftOut.includes(name));
  return JSON.stringify(sorted(Object.fromEntries(said)));
}

/** Context activities as lists, which is how a store gives them back; a single one may be sent bare. */
export function withLists(statement: JsonObject): JsonObject {
  const { context } = statement;
  if (!isObject(context) || !isObject(context.contextActivities)) return statement;
  const lists = Object.entries(context.contextActivities).map(([name, own]) => [
    name,
    Array.isArray(own) ? own : [own],
  ]);
  return { ...statement, context: { ...context, contextActivities: Object.fromEntries(lists) } };
}

function sorted(value: Json): Json {
  if (Array.isArray(value)) return value.map(sorted);
  if (!isObject(value)) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, own]) => [name, sorted(own)]),
  );
}

/** Do two statements with one id say the same? What the store added does not count, nor a time left out. */
export function saysTheSame(stored: JsonObject, sent: JsonObject): boolean {
  const leftOut = sent.timestamp === undefined ? [...ADDED, 'timestamp'] : ADDED;
  return canonical(stored, leftOut) === canonical(sent, leftOut);
}
