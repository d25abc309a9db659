/** The roster by hand: who is a learner, in which course and group, and how they are reached. */
import { dateOfDay, dayOf } from '@/core/time/zone';
import { addAudit, type Changes } from '@/data/audit';
import { learnerDetails, type LearnerDetails } from '@/data/people/contact-details';
import { writing, rawTransaction, type Db } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import {
  addEnrolment,
  addLearner,
  courseByCode,
  enrolmentsById,
  findEnrolment,
  groupId,
  learnerIdTaken,
  noteCourseStale,
  updateEnrolment,
  updateLearner,
  type StoredEnrolment,
} from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import { isLead, isStaffMember } from '@/core/staff/rights';
import { reassignStaffEvents } from '@/data/access/actors';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { EndInput, EnrolInput, LearnerInput, NewLearnerInput, CapacityInput, long } from './roster-input';

function detailsOf(input: LearnerInput): LearnerDetails {
  return {
    given_name: input.given_name,
    family_name: input.family_name ?? '',
    organisation: input.organisation ?? null,
    ...recallOf(input),
  };
}

function recallOf(input: CapacityInput) {
  return {
    email: input.email ?? null,
    phone: input.phone ?? null,
    preferred_channel: input.preferred_channel ?? null,
    timezone: input.timezone ?? null,
  };
}

/** The fields that differ, each with its value before and after. */
function changesBetween(before: object, after: object): Changes {
  const old = before as Record<string, string | number | null>;
  return Object.fromEntries(
    Object.entries(after)
      .filter(([name, value]) => (old[name] ?? null) !== value)
      .map(([name, value]) => [name, [old[name] ?? null, value]]),
  );
}

/** Adds a learner with a first enrolment; leads alone. Returns the database's id. @throws InvalidInput, NotFound */
export async function enterLearner(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  requireLead(viewer);
  const input = readInput(NewLearnerInput, values);
  const id = await writing(runtime.db, async (trx) => {
    if (await learnerIdTaken(trx, input.learner_id)) {
      throw new InvalidInput([{ field: 'learner_id', message: `is taken: ${input.learner_id}` }]);
    }
    const id = await addLearner(trx, input.learner_id, detailsOf(input));
    await addAudit(trx, {
      at: runtime.clock.now(),
      staff_id: viewer.staffId,
      learner_id: id,
      what: 'added the learner',
      subject: input.learner_id,
    });
    await enrolIn(runtime, trx, viewer, id, input);
    return id;
  });
  await afterIdentityChange(runtime);
  return id;
}

/** Somebody may now be, or no longer be, a member of staff as well: by id or e-mail. */
async function afterIdentityChange({ db, zone }: Runtime): Promise<void> {
  await rawTransaction(db, (raw) => reassignStaffEvents(raw, zone));
}

/**
 * Changes a learner's details: how they are reached by anybody on the staff who sees them, who
 * they are by a lead. @throws InvalidInput, NotFound
 */
export async function changeLearner(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: number,
  values: Values,
): Promise<void> {
  const { db, clock } = runtime;
  if (!isStaffMember(viewer) || (await keepInScope(db, viewer, [learnerId])).length === 0) throw new NotFound();
  const after = isLead(viewer)
    ? detailsOf(readInput(LearnerInput, values))
    : recallOf(readInput(CapacityInput, values));
  const changed = await writing(db, async (trx) => {
    const changes = changesBetween(await learnerDetails(trx, learnerId), after);
    if (Object.keys(changes).length === 0) return changes;
    await updateLearner(
      trx,
      learnerId,
      Object.fromEntries(Object.entries(changes).map(([name, [, value]]) => [name, value])),
    );
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      learner_id: learnerId,
      what: 'changed the details',
      subject: Object.keys(changes).join(', ').replaceAll('_', ' '),
      changes,
    });
    return changes;
  });
  if ('email' in changed) await afterIdentityChange(runtime);
}

async function enrolIn(
  { clock, zone }: Runtime,
  trx: Db,
  viewer: Viewer,
  learnerId: number,
  input: EnrolInput,
): Promise<number> {
  const course = await courseByCode(trx, input.course);
  if (!course) throw new InvalidInput([{ field: 'course', message: `there is no course ${input.course}` }]);
  const known = await findEnrolment(trx, learnerId, course.id);
  if (known && known.status === 'active') {
    throw new InvalidInput([{ field: 'course', message: `has them already: ${course.code}` }]);
  }
  const group_id = await groupId(trx, course.id, input.group ?? null);
  const enrolled_day = input.enrolled_on ?? dayOf(clock.now(), zone);
  if (known) await updateEnrolment(trx, known.id, { status: 'active', ended_day: null, group_id, enrolled_day });
  const id =
    known?.id ?? (await addEnrolment(trx, { learner_id: learnerId, course_id: course.id, group_id, enrolled_day }));
  await noteCourseStale(trx, course.id);
  await addAudit(trx, {
    at: clock.now(),
    staff_id: viewer.staffId,
    learner_id: learnerId,
    course_id: course.id,
    what: 'enrolled',
    subject: [course.code, input.group].filter(Boolean).join(' / '),
  });
  return id;
}

/** Enrols a learner in a course, or again; leads alone. @throws InvalidInput, NotFound */
export async function enrol(runtime: Runtime, viewer: Viewer, learnerId: number, values: Values): Promise<void> {
  requireLead(viewer);
  if ((await keepInScope(runtime.db, viewer, [learnerId])).length === 0) throw new NotFound('No such learner');
  const input = readInput(EnrolInput, values);
  await writing(runtime.db, (trx) => enrolIn(runtime, trx, viewer, learnerId, input));
}

async function changeEnrolment(
  { clock }: Runtime,
  trx: Db,
  viewer: Viewer,
  enrolment: StoredEnrolment,
  what: string,
  changes: Parameters<typeof updateEnrolment>[2],
  says: Changes,
): Promise<void> {
  await updateEnrolment(trx, enrolment.id, changes);
  await noteCourseStale(trx, enrolment.course_id);
  await addAudit(trx, {
    at: clock.now(),
    staff_id: viewer.staffId,
    learner_id: enrolment.learner_id,
    course_id: enrolment.course_id,
    what,
    subject: enrolment.course,
    changes: says,
  });
}

async function requireEnrolment(trx: Db, viewer: Viewer, id: number): Promise<StoredEnrolment> {
  const [found] = await enrolmentsById(trx, viewer, [id]);
  if (!found) throw new NotFound('No such enrolment');
  return found;
}

/** Moves a learner to another group of the course, or to none; leads alone. @throws NotFound */
export async function moveGroup(runtime: Runtime, viewer: Viewer, enrolmentId: number, group: string | null) {
  requireLead(viewer);
  if (group !== null && group.length > 200) throw new InvalidInput([{ field: 'group', message: long.message }]);
  await writing(runtime.db, async (trx) => {
    const enrolment = await requireEnrolment(trx, viewer, enrolmentId);
    if (enrolment.group === group) return;
    const group_id = await groupId(trx, enrolment.course_id, group);
    await changeEnrolment(
      runtime,
      trx,
      viewer,
      enrolment,
      'moved group',
      { group_id },
      { group: [enrolment.group, group] },
    );
  });
}

/** Ends enrolments, each on the day given or today; leads alone. @throws InvalidInput, NotFound */
export async function endEnrolments(
  runtime: Runtime,
  viewer: Viewer,
  enrolmentIds: readonly number[],
  values: Values,
): Promise<number[]> {
  requireLead(viewer);
  const { status, ended_on } = readInput(EndInput, values);
  const ended_day = ended_on ?? dayOf(runtime.clock.now(), runtime.zone);
  return writing(runtime.db, async (trx) => {
    const found = (await enrolmentsById(trx, viewer, enrolmentIds)).filter((one) => one.status === 'active');
    if (found.length === 0) throw new NotFound('No such enrolment');
    const early = found.find((one) => ended_day < one.enrolled_day);
    if (early) {
      const message = `lies before the enrolment of ${dateOfDay(early.enrolled_day)}`;
      throw new InvalidInput([{ field: 'ended_on', message }]);
    }
    for (const enrolment of found) {
      const says: Changes = { status: [enrolment.status, status], ended_on: [null, dateOfDay(ended_day)] };
      await changeEnrolment(runtime, trx, viewer, enrolment, 'ended the enrolment', { status, ended_day }, says);
    }
    return found.map((one) => one.id);
  });
}

/** Makes ended enrolments active again: the undo of ending. @throws NotFound */
export async function resumeEnrolments(runtime: Runtime, viewer: Viewer, enrolmentIds: readonly number[]) {
  requireLead(viewer);
  await writing(runtime.db, async (trx) => {
    for (const enrolment of await enrolmentsById(trx, viewer, enrolmentIds)) {
      if (enrolment.status === 'active' || enrolment.status === 'merged') continue;
      const says: Changes = { status: [enrolment.status, 'active'] };
      const changes = { status: 'active', ended_day: null } as const;
      await changeEnrolment(runtime, trx, viewer, enrolment, 'resumed the enrolment', changes, says);
    }
  });
}
