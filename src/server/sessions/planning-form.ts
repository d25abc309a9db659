/** What the forms that plan sessions begin with. */
import { minuteOfDay } from '@/core/sessions/timetable';
import { segmentChoices } from '@/data/courses/segments';
import type { Viewer } from '@/data/scope';
import { instructorsOf, type StoredSession } from '@/data/sessions/timetable';
import type { Runtime } from '../runtime';
import { mayPlan } from './rights';

/** What somebody may plan: courses and groups as choices of a form, and who may give their sessions. */
export async function planningChoices({ db }: Pick<Runtime, 'db'>, viewer: Viewer) {
  const choices = await segmentChoices(db, viewer);
  const courses = new Map(
    choices.flatMap(({ key, segment }) => (segment.courseId ? [[key.slice(7), segment.courseId] as const] : [])),
  );
  const parts = choices.flatMap(({ key, label, segment }) => {
    if (segment.organisationId !== undefined) return [];
    const value = key.slice(key.indexOf(':') + 1);
    const course_id = segment.courseId ?? courses.get(value.split('/')[0]);
    const isOwn = course_id !== undefined && mayPlan(viewer, { course_id, group_id: segment.groupId ?? null });
    return isOwn ? [{ value, label: segment.courseId ? `${label}, all groups` : label, course_id }] : [];
  });
  const instructors = await instructorsOf(db, viewer, [...new Set(parts.map(({ course_id }) => course_id))]);
  return {
    parts: parts.map(({ value, label }) => ({ value, label })),
    instructors: instructors.map(({ id, name }) => ({ value: String(id), label: name })),
  };
}

/** A session as the form that changes it has it. */
export function formOfSession(
  session: Pick<
    StoredSession,
    'title' | 'day' | 'sequence' | 'starts_at' | 'ends_at' | 'mode' | 'place' | 'instructor_id'
  >,
  zone: string,
) {
  const clock = (at: number) => {
    const minute = minuteOfDay(at, zone);
    return `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
  };
  return {
    title: session.title,
    starts: clock(session.starts_at),
    ends: clock(session.ends_at),
    mode: session.mode,
    place: session.place,
    instructor: session.instructor_id === null ? '' : String(session.instructor_id),
    seen: String(session.sequence),
  };
}
