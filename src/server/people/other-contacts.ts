/** Whom else one reaches about a learner: family, employer. */
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { deleteOtherContact, storeOtherContact } from '@/data/people/contact-details';
import { keepInScope } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { isStaffMember } from '@/core/staff/rights';
import { NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { OtherContactInput } from './roster-input';

/** Keeps another contact of a learner, or changes one. @throws InvalidInput, NotFound */
export async function saveOtherContact(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: number,
  contactId: number | null,
  values: Values,
): Promise<void> {
  const { db, clock } = runtime;
  if (!isStaffMember(viewer) || (await keepInScope(db, viewer, [learnerId])).length === 0) throw new NotFound();
  const { name, relation, email, phone, may_receive, allowed_words } = readInput(OtherContactInput, values);
  const mayReceive = may_receive === 'yes';
  await writing(db, async (trx) => {
    const words = { allowed_words: mayReceive ? (allowed_words ?? '') : '' };
    await storeOtherContact(
      trx,
      learnerId,
      contactId,
      { name, relation, email: email ?? null, phone: phone ?? null, may_receive: Number(mayReceive), ...words },
      clock.now(),
    );
    const what = contactId === null ? 'added a contact' : 'changed a contact';
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      learner_id: learnerId,
      what,
      subject: `${name} (${relation}), ${mayReceive ? 'may receive reports' : 'receives no reports'}`,
    });
  });
}

/** Takes another contact away, or puts it back with the values given. @throws NotFound */
export async function removeOtherContact(runtime: Runtime, viewer: Viewer, learnerId: number, contactId: number) {
  const { db, clock } = runtime;
  if (!isStaffMember(viewer) || (await keepInScope(db, viewer, [learnerId])).length === 0) throw new NotFound();
  await writing(db, async (trx) => {
    const gone = await deleteOtherContact(trx, learnerId, contactId);
    if (!gone) throw new NotFound('No such contact');
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      learner_id: learnerId,
      what: 'removed a contact',
      subject: [gone.name, `(${gone.relation})`, gone.phone, gone.email].filter(Boolean).join(' '),
    });
  });
}
