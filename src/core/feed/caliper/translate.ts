/**
 * Events of Caliper as statements of the Experience API, so that both come into one feed and are read by one set of rules:
 * who, what, in which course, and what came of it.
 */
import { isIri, isMailto, isNumber, isObject, isString, type Json, type JsonObject } from '../xapi/values';
import { lastPart } from '../xapi/read';
import { eventUuid } from './envelope';

/** The verb of a grade: it is no deed of whoever it is of. */
export const GRADED = 'urn:caliper:grade:scored';

/** Words of our log for actions of the standard that mean the same; any other keeps its own. */
const WORDS: Readonly<Record<string, string>> = {
  NavigatedTo: 'viewed',
  Viewed: 'viewed',
  Retrieved: 'viewed',
  Downloaded: 'downloaded',
  Restarted: 'started',
  LoggedIn: 'signed_in',
  LoggedOut: 'signed_out',
};
/** What is begun, of a film or a recording, is played. */
const MEDIA_WORDS: Readonly<Record<string, string>> = { Started: 'played', Resumed: 'played' };

/** "LoggedIn" as a word of the log: "logged_in". */
const ownWord = (action: string) =>
  action
    .trim()
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .replace(/\s+/g, '_')
    .toLowerCase();

function wordOf({ type, action, object }: JsonObject): string {
  const said = String(action);
  if (type === 'MessageEvent' && said === 'Posted' && whole(object)?.replyTo) return 'replied';
  if (type === 'MediaEvent' && Object.hasOwn(MEDIA_WORDS, said)) return MEDIA_WORDS[said];
  return Object.hasOwn(WORDS, said) ? WORDS[said] : ownWord(said);
}

const whole = (value: Json | undefined): JsonObject | null => (isObject(value) ? value : null);
const idOf = (value: Json | undefined): string | null => {
  const id = isObject(value) ? value.id : value;
  return id !== undefined && isIri(id) ? id : null;
};

/** Kinds of identifier that a person's record elsewhere goes by, the surest first. */
const SOURCE_IDS = ['SisSourcedId', 'OneRosterSourcedId', 'SystemId', 'AccountUserId', 'UserName'];

/** Whose deed it was, by what is known of them: the id of their record, else an e-mail address, else the end of their IRI. */
function agentOf(actor: Json): JsonObject {
  const id = idOf(actor)!;
  const others = whole(actor)?.otherIdentifiers;
  const known = (Array.isArray(others) ? others : []).filter(isObject);
  const by = (kind: string) =>
    known.find(
      ({ identifierType, identifier }) => identifierType === kind && isString(identifier ?? null) && identifier !== '',
    )?.identifier as string | undefined;
  const account = (name: string): JsonObject => ({ account: { homePage: homeOf(id), name } });
  for (const kind of SOURCE_IDS) {
    const found = by(kind);
    if (found !== undefined) return account(found);
  }
  const mail = by('EmailAddress');
  const mbox = mail === undefined ? id : `mailto:${mail}`;
  if (isMailto(mbox)) return { mbox };
  return account(lastPart(id));
}

const homeOf = (iri: string) => (/^https?:/i.test(iri) ? iri.replace(/^([a-z]+:\/\/[^/]+).*$/i, '$1') : 'urn:uuid');

/** How far up parts and organisations are followed. */
const HIGHEST = 8;

/** What something is part of, the nearest first. */
function upwards(value: Json | undefined, by: 'isPartOf' | 'subOrganizationOf'): Json[] {
  const found: Json[] = [];
  let next = whole(value)?.[by];
  while (next !== undefined && next !== null && found.length < HIGHEST) {
    found.push(next);
    next = whole(next)?.[by];
  }
  return found;
}

const activity = (id: string): JsonObject => ({ id });
const iris = (values: readonly Json[]) => values.flatMap((value) => idOf(value) ?? []);

/** Courses around an event: those of its group and its membership, by their IRIs and by the numbers they go by. */
function coursesOf({ group, membership }: JsonObject): string[] {
  const organisation = whole(membership)?.organization;
  const all = [group, organisation].flatMap((one) =>
    one === undefined ? [] : [one, ...upwards(one, 'subOrganizationOf')],
  );
  const numbers = all.flatMap((one) => {
    const number = whole(one)?.courseNumber;
    return isString(number ?? null) && number !== '' ? [`urn:course:${encodeURIComponent(number as string)}`] : [];
  });
  return [...new Set([...numbers, ...iris(all)])];
}

/** Seconds of an ISO 8601 duration of hours, minutes and seconds; null for any other. */
function secondsOf(value: Json | undefined): number | null {
  const found = isString(value ?? null)
    ? /^PT(?:(\d+)H)?(?:(\d+)M)?(?:(\d+(?:\.\d+)?)S)?$/.exec(value as string)
    : null;
  if (!found || value === 'PT') return null;
  const [hours, minutes, seconds] = found.slice(1).map((part) => Number(part ?? 0));
  return (hours * 60 + minutes) * 60 + seconds;
}

/** Under which an event's share gone through is put: the end of the IRI is what it is known by. */
const PROGRESS = 'urn:caliper:progress';

/** What came of it: a score, an answer, what was posted, how long an attempt took, how far a film was seen. */
function resultOf({ type, action, generated, object, target }: JsonObject): JsonObject | null {
  const made = whole(generated);
  const result: JsonObject = {};
  if (made && isNumber(made.scoreGiven ?? null)) {
    const { scoreGiven: raw, maxScore: max } = made as { scoreGiven: number; maxScore?: Json };
    const fits = max !== undefined && isNumber(max) && max > 0;
    // A score above its maximum is no score of the standard's with one.
    result.score = { raw: Math.max(0, raw), ...(fits && raw <= (max as number) && { min: 0, max }) };
  }
  if (made && isString(made.duration ?? null) && secondsOf(made.duration) !== null) result.duration = made.duration;
  const answer = made?.value ?? made?.values;
  if (answer !== undefined && answer !== null)
    result.response = Array.isArray(answer) ? answer.map(String).join('[,]') : String(answer);
  // What is posted is what was said in its discussion.
  const said = type === 'MessageEvent' && action === 'Posted' ? whole(object)?.body : undefined;
  if (isString(said ?? null) && said !== '') result.response = said as string;
  if (type === 'MediaEvent') {
    const [at, length] = [secondsOf(whole(target)?.currentTime), secondsOf(whole(object)?.duration)];
    const share = action === 'Ended' && at === null ? 1 : at !== null && length ? Math.min(1, at / length) : null;
    if (share !== null) result.extensions = { [PROGRESS]: share };
  }
  return Object.keys(result).length > 0 ? result : null;
}

/**
 * A well-formed event as a statement, without what a store adds.
 *
 * A grade is of whoever made the attempt, whoever gave it. What happened to an application within a course, such as signing
 * in, is of the course.
 *
 * @param event as `readEnvelope` gives it
 * @param uuidOf a UUID for an attempt whose IRI holds none: the same for the same
 * @example a NavigationEvent of …/users/H-0007 on …/DRY/dry-u1-03 is "H-0007 viewed dry-u1-03", in DRY
 */
export function statementOfEvent(event: JsonObject, uuidOf: (iri: string) => string): JsonObject {
  const { object, generated } = event;
  const courses = coursesOf(event);
  const isGrade = event.type === 'GradeEvent';
  const attempt = isGrade ? whole(object) : whole(generated);
  const graded = isGrade && attempt?.assignee !== undefined && idOf(attempt.assignee) !== null ? attempt : null;
  const about = graded?.assignable !== undefined && idOf(graded.assignable) !== null ? graded.assignable : object;
  const isOfCourse = whole(object)?.type === 'SoftwareApplication' && courses.length > 0;
  const parents = iris(upwards(about, 'isPartOf'));
  const result = resultOf(event);
  const isAttempt = isGrade || (isString(attempt?.type ?? null) && attempt?.type === 'Attempt');
  const attemptId = isAttempt ? idOf(isGrade ? object : generated) : idOf(attempt?.attempt);
  const contextActivities = {
    ...(parents.length > 0 && { parent: parents.map(activity) }),
    ...(courses.length > 0 && { grouping: courses.map(activity) }),
  };
  const context = {
    ...(Object.keys(contextActivities).length > 0 && { contextActivities }),
    ...(attemptId !== null && { registration: eventUuid(attemptId) ?? uuidOf(attemptId) }),
  };
  return {
    actor: agentOf(graded ? graded.assignee : event.actor),
    verb: { id: isGrade ? GRADED : `urn:caliper:${encodeURIComponent(wordOf(event))}` },
    object: activity(isOfCourse ? courses[0] : idOf(about)!),
    ...(result && { result }),
    ...(Object.keys(context).length > 0 && { context }),
    timestamp: event.eventTime,
  };
}
