/** Certificates of completion: given by staff, numbered, as PDF; the number can be checked in public. */
import { randomBytes } from 'node:crypto';
import type { Readable } from 'node:stream';
import { USUAL_TEXT, certificateNumber, fillCertificate, readNumber } from '@/core/people/certificate';
import { isStaffMember } from '@/core/staff/rights';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { readCourse } from '@/data/completion/course';
import { withRaw, writing } from '@/data/db';
import {
  addCertificate,
  certificatesOf,
  checkNumber,
  findCertificate,
  revokeCertificate as revokeStored,
  type Certificate,
} from '@/data/people/certificates';
import { findLearner } from '@/data/people/learners';
import { placedEnrolments, type PlacedEnrolment } from '@/data/people/organisations';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { Paper } from '../reports/paper/pages';
import { QUIET } from '../reports/paper/typeset';

/** "3 December 2026", as it stands on paper. */
function sayWhole(day: number): string {
  return new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }).format(
    new Date(`${dateOfDay(day)}T00:00:00Z`),
  );
}

export interface CertificatesShown {
  /** Can one be given: is the course completed, and is there none that holds? */
  mayGive: boolean;
  given: {
    number: string;
    givenAt: number;
    revokedAt: number | null;
    /** Has the completion been taken back since it was given? */
    isTakenBack: boolean;
  }[];
}

async function standing(
  runtime: Runtime,
  viewer: Viewer,
  learner: string,
  course: string,
): Promise<{ learnerId: number; courseId: number; enrolment: PlacedEnrolment }> {
  const learnerId = await findLearner(runtime.db, viewer, learner);
  if (learnerId === null) throw new NotFound('No such learner');
  // What stands on paper is the name itself, whoever has names hidden meanwhile.
  const view = await openView(runtime, { ...viewer, standInKey: null }, { course });
  const [enrolment] = await placedEnrolments(runtime.db, view, learnerId);
  if (!enrolment || view.segment.courseId === undefined) throw new NotFound('No such enrolment');
  return { learnerId, courseId: view.segment.courseId, enrolment };
}

const isCompleted = ({ stand }: PlacedEnrolment) => stand === 'completed' || stand === 'certified';

/** The certificates of a learner in a course. @throws NotFound */
export async function certificatesShown(
  runtime: Runtime,
  viewer: Viewer,
  learner: string,
  course: string,
): Promise<CertificatesShown> {
  const { learnerId, courseId, enrolment } = await standing(runtime, viewer, learner, course);
  const all = await certificatesOf(runtime.db, viewer, learnerId, courseId);
  const isDone = isCompleted(enrolment);
  return {
    mayGive:
      isStaffMember(viewer) && viewer.standInKey === null && isDone && all.every((one) => one.revoked_at !== null),
    given: all.map(({ number, given_at, revoked_at }) => ({
      number,
      givenAt: given_at,
      revokedAt: revoked_at,
      isTakenBack: revoked_at === null && !isDone,
    })),
  };
}

/** Gives a certificate; one that holds already stands. Returns its number. @throws InvalidInput while the course is not completed, NotFound */
export async function giveCertificate(
  runtime: Runtime,
  viewer: Viewer,
  learner: string,
  course: string,
): Promise<string> {
  const { db, clock, zone } = runtime;
  if (!isStaffMember(viewer)) throw new NotFound();
  if (viewer.standInKey !== null)
    throw new InvalidInput([{ field: 'learner', message: 'has no name to put on it while names are hidden' }]);
  const { learnerId, courseId, enrolment } = await standing(runtime, viewer, learner, course);
  if (!isCompleted(enrolment))
    throw new InvalidInput([{ field: 'course', message: 'is not completed: something that it requires is left' }]);
  const now = clock.now();
  const { title, options } = await withRaw(db, (raw) => readCourse(raw, courseId));
  const day = enrolment.completed_at === null ? enrolment.ended_day : dayOf(enrolment.completed_at, zone);
  const text = fillCertificate(options.certificate ?? USUAL_TEXT, {
    course: title,
    day: sayWhole(day ?? dayOf(now, zone)),
  });
  const number = certificateNumber(randomBytes(12));
  return writing(db, async (trx) => {
    const holding = (await certificatesOf(trx, viewer, learnerId, courseId)).find((one) => one.revoked_at === null);
    if (holding) return holding.number;
    await addCertificate(trx, {
      ...{ number, learner_id: learnerId, course_id: courseId, course_title: title, name: enrolment.name, text },
      ...{ completed_day: day, given_at: now, staff_id: viewer.staffId || null },
    });
    const subject = `${title}, number ${number}`;
    await addAudit(trx, {
      at: now,
      staff_id: viewer.staffId || null,
      learner_id: learnerId,
      what: 'gave a certificate',
      subject,
    });
    return number;
  });
}

/** Takes a certificate back: its number is good no more. @throws NotFound */
export async function revokeCertificate(runtime: Runtime, viewer: Viewer, number: string): Promise<void> {
  const found = isStaffMember(viewer) ? await findCertificate(runtime.db, viewer, number) : null;
  if (!found) throw new NotFound('No such certificate');
  const at = runtime.clock.now();
  const by = viewer.staffId || null;
  await writing(runtime.db, async (trx) => {
    if (!(await revokeStored(trx, found.id, at, by))) throw new NotFound('It was taken back already');
    const subject = `${found.course_title}, number ${number}`;
    await addAudit(trx, { at, staff_id: by, learner_id: found.learner_id, what: 'took a certificate back', subject });
  });
}

/** A certificate as a PDF, as it was given. @throws NotFound where it was taken back, or names are hidden */
export async function certificatePdf(runtime: Runtime, viewer: Viewer, number: string): Promise<Readable> {
  const found = viewer.standInKey === null ? await findCertificate(runtime.db, viewer, number) : null;
  if (!found || found.revoked_at !== null) throw new NotFound('No such certificate');
  return write(runtime, found);
}

function write({ settings, zone }: Runtime, { number, name, text, course_title, given_at }: Certificate): Readable {
  const paper = new Paper({ title: `Certificate: ${course_title}`, foot: `Number ${number}`, isWide: true });
  paper.newPage();
  paper.y += 90;
  paper.text('H1', 'Certificate', { size: 34, weight: 600 }, 34);
  paper.text('P', name, { size: 24, weight: 600 }, 10);
  paper.text('P', text, { size: 15 }, 60);
  paper.text('P', `Given on ${sayWhole(dayOf(given_at, zone))}. Number ${number}.`, { size: 11 }, 6);
  if (settings.url !== null)
    paper.text(
      'P',
      `Whether such a number was given, for which course and when, is said at ${settings.url}/certificate/${number}`,
      { size: 9, color: QUIET },
    );
  paper.finish();
  return paper.doc as unknown as Readable;
}

/** What anybody may know of a number: for which course it was given and when. @throws NotFound */
export async function checkCertificate(
  { db, zone }: Runtime,
  typed: string,
): Promise<{ number: string; course: string; on: string }> {
  const number = readNumber(typed);
  const found = number && (await checkNumber(db, number));
  if (!number || !found) throw new NotFound('No such number');
  return { number, course: found.course, on: sayWhole(dayOf(found.givenAt, zone)) };
}
