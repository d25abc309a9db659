/** Credentials with which sources send events by themselves. */
import { randomBytes } from 'node:crypto';
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { PROTOCOLS, PROTOCOL_WORDS, type Protocol } from '@/core/feed/protocol';
import { addAudit } from '@/data/audit';
import { addCredential, closeCredential } from '@/data/feed/sources';
import type { Viewer } from '@/data/scope';
import { NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { hashSecret } from './credential';

export class CredentialInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(100, { message: 'is longer than 100 characters' }) source!: string;
  @IsOptional()
  @IsIn(PROTOCOLS, { message: `is not one of ${PROTOCOLS.join(', ')}` })
  protocol?: Protocol;
}

export interface NewCredential {
  source: string;
  key: string;
  /** Shown once: only its hash is kept. */
  secret: string;
}

/** Makes a credential for a source, which is made with it when it is new. @throws InvalidInput; NotFound for anybody but a lead */
export async function makeCredential(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  viewer: Viewer,
  values: Values,
): Promise<NewCredential> {
  requireLead(viewer);
  const { source, protocol = 'xapi' } = readInput(CredentialInput, values);
  const [key, secret] = [randomBytes(6).toString('hex'), randomBytes(24).toString('base64url')];
  const staff_id = viewer.staffId || null;
  await addCredential(db, source, {
    key,
    secret_hash: hashSecret(secret),
    created_at: clock.now(),
    staff_id,
    protocol,
  });
  await addAudit(db, {
    at: clock.now(),
    staff_id,
    what: 'made a credential',
    subject: `${source}: ${key}, for ${PROTOCOL_WORDS[protocol]}`,
  });
  return { source, key, secret };
}

/** Ends a credential: what is sent with it is refused from now on. @throws NotFound */
export async function endCredential(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  viewer: Viewer,
  id: number,
): Promise<void> {
  requireLead(viewer);
  const key = await closeCredential(db, id, clock.now());
  if (key === null) throw new NotFound('No such credential');
  await addAudit(db, {
    at: clock.now(),
    staff_id: viewer.staffId || null,
    what: 'ended a credential',
    subject: key,
  });
}
