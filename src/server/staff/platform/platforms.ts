/** Course platforms that are known, set by leads, and which of their courses is which here. */
import { IsIn, IsNotEmpty, IsOptional, Matches, MaxLength } from 'class-validator';
import { addAudit } from '@/data/audit';
import { courseIdOf } from '@/data/courses/courses';
import { writing } from '@/data/db';
import { dropIdentitiesBy } from '@/data/staff/identities';
import {
  addPlatform,
  dropLaunchedScopes,
  listPlatformCourses,
  listPlatforms,
  platformById,
  platformCourse,
  removePlatform,
  updatePlatformCourse,
  type Platform,
} from '@/data/staff/platforms';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../../request/input';
import { requireLead } from '../../request/lead';
import type { Runtime } from '../../runtime';
import { faultOf } from './ask';
import { issuerOf } from './launch';

const missing = { message: 'is missing' };
const long = { message: 'is longer than 2,000 characters' };
/** Courses that are shown: those from which somebody came last. */
const SHOWN = 500;
const MOST_DEPLOYMENTS = 50;

export class PlatformInput {
  @Matches(/^[^:/]{1,60}$/, { message: 'is missing, longer than 60 characters, or has a colon or a slash in it' })
  name!: string;
  @IsNotEmpty(missing) @MaxLength(2000, long) issuer!: string;
  @Matches(/^\S{1,300}$/, { message: 'is missing, too long, or has a space in it' }) client_id!: string;
  /** Deployments, with spaces or commas between them. */
  @IsNotEmpty(missing) @MaxLength(2000, long) deployments!: string;
  @IsNotEmpty(missing) @MaxLength(2000, long) login_url!: string;
  @IsNotEmpty(missing) @MaxLength(2000, long) keys_url!: string;
  @IsOptional() @MaxLength(2000, long) token_url?: string;
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not yes or no' }) vouches_for_email?: string;
}

/** Every platform and the courses that people came from, for leads. @throws NotFound for anybody else */
export async function platformsFor({ db, settings }: Runtime, viewer: Viewer) {
  requireLead(viewer);
  const [platforms, courses] = await Promise.all([listPlatforms(db), listPlatformCourses(db, SHOWN)]);
  return { platforms, courses, url: settings.url };
}

/** Adds a platform. Returns its number. @throws InvalidInput, NotFound */
export async function addPlatformBy({ db, clock, settings }: Runtime, viewer: Viewer, values: Values): Promise<number> {
  requireLead(viewer);
  const input = readInput(PlatformInput, values);
  const addresses = { login_url: input.login_url, keys_url: input.keys_url, token_url: input.token_url ?? '' };
  const errors = Object.entries(addresses).flatMap(([field, url]) => {
    const message = url === '' ? null : faultOf(url, settings);
    return message === null ? [] : [{ field, message }];
  });
  const deployments = [...new Set(input.deployments.split(/[\s,]+/).filter(Boolean))];
  if (deployments.length === 0 || deployments.length > MOST_DEPLOYMENTS)
    errors.push({ field: 'deployments', message: `are none, or more than ${MOST_DEPLOYMENTS}` });
  if (errors.length > 0) throw new InvalidInput(errors);
  return writing(db, async (trx) => {
    for (const known of await listPlatforms(trx)) {
      if (known.name === input.name) throw new InvalidInput([{ field: 'name', message: 'is another’s already' }]);
      if (known.issuer === input.issuer && known.client_id === input.client_id)
        throw new InvalidInput([{ field: 'client_id', message: `is known as ${known.name} already` }]);
    }
    const { name, issuer, client_id, vouches_for_email } = input;
    const id = await addPlatform(trx, {
      ...{ name, issuer, client_id, ...addresses, deployments: deployments.join(' '), made_at: clock.now() },
      vouches_for_email: vouches_for_email === 'yes' ? 1 : 0,
    });
    const says = `${name}: ${issuer}, ${client_id}${vouches_for_email === 'yes' ? ', e-mail vouched for' : ''}`;
    await addAudit(trx, { at: clock.now(), staff_id: viewer.staffId, what: 'added a platform', subject: says });
    return id;
  });
}

/** Ends a platform: nobody comes from it any more, and what its launches gave goes; people stay. @throws NotFound */
export async function endPlatform({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const platform = await requirePlatform(await platformById(trx, id));
    await dropIdentitiesBy(trx, issuerOf(id));
    await removePlatform(trx, id);
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'ended a platform',
      subject: platform.name,
    });
  });
}

function requirePlatform(platform: Platform | null): Platform {
  if (platform === null) throw new NotFound('No such platform');
  return platform;
}

/**
 * Says which course here a course of a platform is: what it is called there proves nothing, since whoever teaches it may call it as
 * they like. Its roster is read from now on, where the platform has names and roles. What launches gave for another course goes.
 *
 * @param code empty for none
 * @throws InvalidInput, NotFound
 */
export async function connectCourse({ db, clock }: Runtime, viewer: Viewer, id: number, code: string): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const own = await platformCourse(trx, id);
    if (!own) throw new NotFound('No such course of a platform');
    const courseId = code === '' ? null : await courseIdOf(trx, code);
    if (code !== '' && courseId === null)
      throw new InvalidInput([{ field: 'course', message: 'is no course that is known' }]);
    if (courseId === own.course_id) return;
    await dropLaunchedScopes(trx, id);
    const { token_url, name } = requirePlatform(await platformById(trx, own.platform_id));
    const isRead = courseId !== null && own.members_url !== null && token_url !== '';
    await updatePlatformCourse(trx, id, {
      course_id: courseId,
      next_read_at: isRead ? clock.now() : null,
      ...{ read_at: null, read_error: null, import_id: null, active_before: null },
    });
    const what = courseId === null ? 'let go of a course of a platform' : 'connected a course of a platform';
    const subject = `${name}: ${own.title}${code === '' ? '' : `, ${code}`}`;
    await addAudit(trx, { at: clock.now(), staff_id: viewer.staffId, course_id: courseId, what, subject });
  });
}

/** Has a course's roster read at the next chance. @throws InvalidInput where there is none to read; NotFound */
export async function readRosterSoon({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const own = await platformCourse(trx, id);
    if (!own) throw new NotFound('No such course of a platform');
    const platform = requirePlatform(await platformById(trx, own.platform_id));
    if (own.course_id === null || own.members_url === null || platform.token_url === '')
      throw new InvalidInput([{ field: 'course', message: 'has no roster that can be read' }]);
    await updatePlatformCourse(trx, id, { next_read_at: clock.now() });
  });
}
