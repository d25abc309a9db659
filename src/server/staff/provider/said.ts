/** Who on the staff somebody is of whom another service says who they are: single sign-on, or a course platform. */
import { fullName } from '@/core/people/name';
import type { Person } from '@/core/staff/claims';
import type { StaffRole } from '@/core/staff/roles';
import { MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import type { Db } from '@/data/db';
import { addIdentity, hasIdentity, identityOf, noteIdentityUsed } from '@/data/staff/identities';
import { addStaff, staffByEmail, staffById, type StaffAccount } from '@/data/staff/staff';
import type { Runtime } from '../../runtime';

/** How long somebody may take at the provider or a platform, in ms. */
export const LOGIN_LENGTH = 10 * MINUTE;

/** Why nobody was let in, in words for whoever stands there. */
export class NotLetIn extends Error {
  override name = 'NotLetIn';
}

/** What the other service says of somebody. */
interface Said {
  issuer: string;
  /** Its own word for them, which never changes. */
  subject: string;
  /** Null where it does not vouch for an e-mail address. */
  person: Person | null;
  /** The role of somebody who is new here; null where nothing gives them one. */
  role: StaffRole | null;
  by: 'the provider' | 'a platform';
}

/**
 * The member of staff that somebody is: by the other service's own word for them, the first time by an e-mail that it vouches for;
 * whoever nobody knows is added where something gives them a role.
 * @throws NotLetIn
 */
export async function staffSaidToBe({ clock }: Pick<Runtime, 'clock'>, trx: Db, said: Said): Promise<StaffAccount> {
  const { issuer, subject, person, by } = said;
  const at = clock.now();
  const known = await identityOf(trx, issuer, subject);
  if (known) await noteIdentityUsed(trx, known.id, at);
  if (!known && person === null)
    throw new NotLetIn('The sign-in service does not vouch for your e-mail address, so it cannot be told who you are.');
  const staffId =
    known?.staff_id ?? (await staffByVouched(trx, issuer, person!)) ?? (await addSaid(trx, { ...said, person }, at));
  const staff = (await staffById(trx, staffId))!;
  if (staff.ended_at !== null) throw new NotLetIn('Your account here has ended. Ask somebody who leads the programme.');
  if (!known) {
    await addIdentity(trx, { staff_id: staffId, issuer, subject, linked_at: at });
    const what = `linked with ${by}`;
    await addAudit(trx, { at, staff_id: staffId, what, subject: staff.external_id });
  }
  return staff;
}

/** The one on the staff with an e-mail that is vouched for; null for nobody. @throws NotLetIn where the service knows them already */
async function staffByVouched(trx: Db, issuer: string, { email }: Person): Promise<number | null> {
  const staff = await staffByEmail(trx, email);
  if (!staff) return null;
  if (await hasIdentity(trx, issuer, staff.id))
    throw new NotLetIn(
      'The sign-in service knows you by another name than before. Somebody who leads the programme can let go of that, under Staff.',
    );
  return staff.id;
}

/** Adds somebody who is given a role. @throws NotLetIn where nothing gives them one */
async function addSaid(trx: Db, { person, role, by }: Said, at: number): Promise<number> {
  if (role === null || person === null)
    throw new NotLetIn(
      'You have no account here, and what the sign-in service says of you gives you none. Ask somebody who leads the programme.',
    );
  const id = await addStaff(trx, { external_id: person.email, ...person, role, password_hash: null });
  const subject = `${fullName(person)} (${person.email}), ${role}`;
  await addAudit(trx, { at, staff_id: id, what: `came in by ${by}`, subject });
  return id;
}
