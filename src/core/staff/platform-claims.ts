/** What a launch from a course platform says: claims of LTI 1.3 (1EdTech LTI Core 1.3, 5.3 and 5.4; Names and Roles 2.0). */
import { valuesOf } from './claims';
import type { StaffRole } from './roles';

const LTI = 'https://purl.imsglobal.org/spec/lti/claim';
const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
const NAMES_AND_ROLES = 'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice';

/** The course that somebody comes from, as the platform calls it. */
export interface Context {
  id: string;
  /** Its code, or what stands for one. */
  label: string;
  title: string;
  /** Where its members can be asked for; null where the platform does not tell. */
  membersUrl: string | null;
}

export interface Launch {
  deployment: string;
  role: TeachingRole | 'learner' | null;
  /** Null where they come from no course, such as from a menu of the whole platform. */
  context: Context | null;
}

/** What a launch may make of somebody here: nobody becomes a lead, or a partner's contact, by one. */
type TeachingRole = Extract<StaffRole, 'instructor' | 'mentor'>;

/** Longest texts of a context that are kept. */
const MOST = 300;

/**
 * What somebody is in the course they come from: roles of the context alone count, since an administrator of the platform teaches
 * nobody. A teaching assistant, an instructor by sub-role, is a mentor here, and so is a tutor.
 *
 * @example roleOf(['http://purl.imsglobal.org/vocab/lis/v2/membership#Instructor']) // 'instructor'
 */
export function roleOf(roles: readonly string[]): Launch['role'] {
  const own = new Set(roles.flatMap((role) => shortOf(role) ?? []));
  const isAssistant = own.has('Instructor#TeachingAssistant') || own.has('Instructor#TeachingAssistantGroup');
  if (own.has('Mentor') || isAssistant || [...own].some((role) => role.startsWith('Mentor#'))) return 'mentor';
  if (own.has('Instructor')) return 'instructor';
  return own.has('Learner') ? 'learner' : null;
}

/** `Instructor`, or `Instructor#TeachingAssistant` of a sub-role; null for a role that is none of a course's. */
function shortOf(role: string): string | null {
  const sub = new RegExp(`^${MEMBERSHIP}/(\\w+)#(\\w+)$`).exec(role);
  if (sub) return `${sub[1]}#${sub[2]}`;
  const core = new RegExp(`^${MEMBERSHIP}#(\\w+)$`).exec(role);
  if (core) return core[1];
  // The standard lets the short name of a course's role stand alone; it is deprecated, and sent.
  return /^\w+$/.test(role) ? role : null;
}

/**
 * What a launch says.
 *
 * @returns the launch, or in words what is wrong with it
 */
export function launchOf(claims: Readonly<Record<string, unknown>>): Launch | string {
  const said = (name: string) => claims[`${LTI}/${name}`];
  if (said('version') !== '1.3.0') return 'is of no version that is known here (1.3.0)';
  if (said('message_type') !== 'LtiResourceLinkRequest') return 'is no launch of a link';
  const deployment = said('deployment_id');
  if (typeof deployment !== 'string' || deployment === '') return 'names no deployment';
  return {
    deployment,
    role: roleOf(valuesOf(claims, `${LTI}/roles`)),
    context: contextOf(said('context'), claims[NAMES_AND_ROLES]),
  };
}

function contextOf(context: unknown, service: unknown): Context | null {
  const id = textOf(context, 'id');
  if (id === '') return null;
  const label = textOf(context, 'label');
  const membersUrl = textOf(service, 'context_memberships_url', 2000);
  return { id, label, title: textOf(context, 'title') || label || id, membersUrl: membersUrl || null };
}

function textOf(from: unknown, name: string, most = MOST): string {
  const found = typeof from === 'object' && from !== null ? (from as Record<string, unknown>)[name] : undefined;
  return typeof found === 'string' ? found.trim().slice(0, most) : '';
}

/** A row of a roster. */
type RosterLine = Record<(typeof ROSTER_HEADS)[number], string>;
export const ROSTER_HEADS = ['learner_id', 'given_name', 'family_name', 'email', 'course', 'status'] as const;

/**
 * Learners of a course as rows of a roster. Their id is that of the student records where the platform tells it, so that other files
 * mean the same one by it; otherwise the platform's own, with its name before it: two platforms may both have a number 5.
 *
 * @param members as the platform answers them
 */
export function rosterOf(members: readonly unknown[], platform: string, course: string): RosterLine[] {
  return members.flatMap((member) => {
    const roles = valuesOf({ roles: (member as { roles?: unknown } | null)?.roles }, 'roles');
    const id = textOf(member, 'user_id');
    if (roleOf(roles) !== 'learner' || id === '') return [];
    const whole = textOf(member, 'name');
    const given_name = textOf(member, 'given_name');
    return {
      learner_id: textOf(member, 'lis_person_sourcedid') || `${platform}:${id}`,
      given_name: given_name || whole,
      family_name: given_name ? textOf(member, 'family_name') : '',
      email: textOf(member, 'email'),
      course,
      status: ['Inactive', 'Deleted'].includes(textOf(member, 'status')) ? 'withdrawn' : 'active',
    };
  });
}

/** Somebody who is in the course here, by what the roster has of them. */
export type EnrolledHere = Omit<RosterLine, 'course'>;

/**
 * The rows that a roster brings: what the platform says anew, not what it says again. Somebody who was settled as having left, or
 * has completed the course here, is not enrolled once more each night because the platform has them still; somebody who comes back
 * over there is. Whoever is not active there, or is not named any more, has left where they were active at the last read.
 *
 * @param here those who are in the course here
 * @param wasActive was somebody active over there at the last read?
 */
export function newsOf(
  rows: readonly RosterLine[],
  here: readonly EnrolledHere[],
  wasActive: (learnerId: string) => boolean,
): RosterLine[] {
  const enrolled = new Map(here.map((one) => [one.learner_id, one]));
  const named = new Set(rows.map(({ learner_id }) => learner_id));
  const isEnrolled = (id: string) => enrolled.get(id)?.status === 'active';
  const course = rows[0]?.course ?? '';
  const shown = rows.flatMap((row) => {
    const { learner_id, status } = row;
    if (status !== 'active') return isEnrolled(learner_id) && wasActive(learner_id) ? row : [];
    const isSettled = wasActive(learner_id) || enrolled.get(learner_id)?.status === 'completed';
    return { ...row, status: isSettled && enrolled.has(learner_id) ? '' : 'active' };
  });
  const gone = here.filter(({ learner_id: id }) => !named.has(id) && isEnrolled(id) && wasActive(id));
  return [...shown, ...gone.map((one) => ({ ...one, course, status: 'withdrawn' }))];
}
