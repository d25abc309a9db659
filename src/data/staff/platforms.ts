/** Course platforms from which people come in, and the courses there. */
import type { Context, EnrolledHere } from '@/core/staff/platform-claims';
import type { Db } from '../db';

export interface Platform {
  id: number;
  name: string;
  issuer: string;
  client_id: string;
  /** Deployments that are known, a space between them. */
  deployments: string;
  login_url: string;
  keys_url: string;
  /** Where words for its services are got; empty where it has none. */
  token_url: string;
  /** Is an e-mail address that it tells known to be that person's? */
  vouches_for_email: number;
  made_at: number;
}

export async function listPlatforms(db: Db): Promise<Platform[]> {
  return db('platform').orderBy('name').select('*');
}

export async function platformById(db: Db, id: number): Promise<Platform | null> {
  return (await db('platform').where({ id }).first()) ?? null;
}

/** Platforms by who they say they are: one program may stand there several times, under several ids. */
export async function platformsOf(db: Db, issuer: string): Promise<Platform[]> {
  return db('platform').where({ issuer }).orderBy('id').select('*');
}

export async function addPlatform(trx: Db, platform: Omit<Platform, 'id'>): Promise<number> {
  const [row] = await trx('platform').insert(platform).returning('id');
  return row.id;
}

/** Ends a platform, with what is known of its courses and what its launches gave. */
export async function removePlatform(trx: Db, id: number): Promise<void> {
  await trx('provider_login').where('platform_id', id).delete();
  await trx('platform').where({ id }).delete();
}

/** A course of a platform, with what it is here and how its roster was read last. */
export interface PlatformCourse {
  id: number;
  platform_id: number;
  context_id: string;
  label: string;
  title: string;
  members_url: string | null;
  course_id: number | null;
  seen_at: number;
  read_at: number | null;
  import_id: number | null;
  read_error: string | null;
  next_read_at: number | null;
  /** Marks of those who were active there at the last read, as JSON. */
  active_before: string | null;
}

/** Courses of all platforms with the code of each one's course here, the newest first; at most `most`. */
export async function listPlatformCourses(
  db: Db,
  most: number,
): Promise<(PlatformCourse & { course: string | null })[]> {
  return db('platform_course as p')
    .leftJoin('course as c', 'c.id', 'p.course_id')
    .orderBy('p.seen_at', 'desc')
    .orderBy('p.id', 'desc')
    .limit(most)
    .select('p.*', 'c.code as course');
}

export async function platformCourse(db: Db, id: number): Promise<PlatformCourse | null> {
  return (await db('platform_course').where({ id }).first()) ?? null;
}

/** A course here that somebody came from, by a course of a platform. */
export interface LaunchedCourse {
  id: number;
  code: string;
  platformCourseId: number;
}

/** Notes that somebody came from a course. Returns the course here that it is: null where nobody has said. */
export async function noteContext(
  trx: Db,
  platformId: number,
  context: Context,
  at: number,
): Promise<LaunchedCourse | null> {
  const said = { label: context.label, title: context.title, members_url: context.membersUrl, seen_at: at };
  const [{ id, course_id }] = await trx('platform_course')
    .insert({ platform_id: platformId, context_id: context.id, ...said })
    .onConflict(['platform_id', 'context_id'])
    .merge(said)
    .returning(['id', 'course_id']);
  if (course_id === null) return null;
  const course = await trx('course').where('id', course_id).first('id', 'code');
  return course ? { ...course, platformCourseId: id } : null;
}

export async function updatePlatformCourse(
  trx: Db,
  id: number,
  changes: Partial<Omit<PlatformCourse, 'id' | 'platform_id' | 'context_id'>>,
): Promise<void> {
  await trx('platform_course').where({ id }).update(changes);
}

/** The course whose roster is due longest; null for none. */
export async function dueRoster(db: Db, now: number): Promise<PlatformCourse | null> {
  return (await db('platform_course').where('next_read_at', '<=', now).orderBy('next_read_at').first()) ?? null;
}

/** Gives a scope by a launch, unless it is there. Returns whether it was not. */
export async function giveLaunchedScope(trx: Db, staffId: number, course: LaunchedCourse): Promise<boolean> {
  const scope = { staff_id: staffId, kind: 'course' as const, course_id: course.id };
  if (await trx('staff_scope').where(scope).first('id')) return false;
  await trx('staff_scope').insert({ ...scope, platform_course_id: course.platformCourseId });
  return true;
}

/** Takes scopes that launches from a course of a platform gave, from somebody or from all. Returns how many there were. */
export async function dropLaunchedScopes(trx: Db, platformCourseId: number, staffId?: number): Promise<number> {
  return trx('staff_scope')
    .where({ platform_course_id: platformCourseId, ...(staffId === undefined ? {} : { staff_id: staffId }) })
    .delete();
}

/** Those who are or were in a course, as a roster has them. */
export async function enrolledHere(db: Db, courseId: number): Promise<EnrolledHere[]> {
  return db('enrolment as e')
    .join('learner as l', 'l.id', 'e.learner_id')
    .where('e.course_id', courseId)
    .whereNot('e.status', 'merged')
    .select(
      'l.external_id as learner_id',
      'l.given_name',
      'l.family_name',
      db.raw(`ifnull(l.email, '') AS email`),
      'e.status',
    );
}
