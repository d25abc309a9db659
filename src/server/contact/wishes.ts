/** What learners wish of how they are written to, noted by staff or by their own press under a mail (RFC 8058). */
import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { IsArray, IsIn, IsOptional } from 'class-validator';
import { againstWishes, WISHES, WISH_WORDS, type Wish } from '@/core/contact/wishes';
import { isStaffMember } from '@/core/staff/rights';
import { addAudit } from '@/data/audit';
import { storeWishes, wishesOf } from '@/data/contact/wishes';
import { mayReceive, takeOutOfReceivers } from '@/data/contact/receivers';
import { writing, type Db } from '@/data/db';
import { keepInScope, keptNumbers } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { ownSecret } from '@/data/settings';
import { NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import type { Channel } from '@/core/contact/recipient';

export class WishesInput {
  @IsOptional()
  @IsIn(WISHES, { each: true, message: `are not some of ${WISHES.join(', ')}` })
  @IsArray({ message: 'is not a list' })
  wishes?: Wish[];
}

/** Notes what a learner in scope wishes. @throws InvalidInput, NotFound */
export async function saveWishes(runtime: Runtime, viewer: Viewer, learnerId: number, values: Values): Promise<void> {
  const { db, clock } = runtime;
  if (!isStaffMember(viewer) || (await keepInScope(db, viewer, [learnerId])).length === 0) throw new NotFound();
  const { wishes = [] } = readInput(WishesInput, values);
  await note(runtime, learnerId, wishes, viewer.staffId || null, clock.now());
}

async function note({ db }: Runtime, learnerId: number, wishes: readonly Wish[], staffId: number | null, at: number) {
  await writing(db, async (trx) => {
    const before = (await wishesOf(trx, [learnerId])).get(learnerId) ?? [];
    const say = (list: readonly Wish[]) => list.map((wish) => WISH_WORDS[wish]).join(', ') || null;
    if (say(before) === say(WISHES.filter((wish) => wishes.includes(wish)))) return;
    await storeWishes(trx, learnerId, wishes, { at, staff_id: staffId });
    await addAudit(trx, {
      at,
      staff_id: staffId,
      learner_id: learnerId,
      what: staffId === null ? 'wished by a press under a mail' : 'noted a wish',
      subject: 'how they are written to',
      changes: { wishes: [say(before), say(wishes)] },
    });
  });
}

/** Why a message to a learner may not go now; null where it may. The outbox asks again: a wish may have come meanwhile. */
export async function wishAgainst(db: Db, learnerId: number, channel: Channel): Promise<string | null> {
  const wishes = (await wishesOf(db, [learnerId])).get(learnerId) ?? [];
  const against = againstWishes(wishes, channel);
  return against === null ? null : `The learner ${against}: it was not sent.`;
}

const KEY = 'less_key';

const keyOf = (db: Db) => ownSecret(db, KEY, () => randomBytes(32).toString('hex'));

/** Whom a link is of: a learner, or somebody beside one. */
interface Of {
  kind: 'learner' | 'contact';
  id: number;
}

const sign = (key: string, of: string) => createHmac('sha256', key).update(of).digest('base64url').slice(0, 32);

/** The address under a mail at which its reader is written to less; null where nobody said at which address Lee Shore is found. */
export async function lessLink(
  { db, settings }: Pick<Runtime, 'db' | 'settings'>,
  { kind, id }: Of,
): Promise<string | null> {
  if (settings.url === null) return null;
  const of = `${kind[0]}${id}`;
  return `${settings.url}/less/${of}.${sign(await keyOf(db), of)}`;
}

/** Whom a link is of; of a record that was merged, the one that was kept. @throws NotFound */
async function read({ db }: Pick<Runtime, 'db'>, token: string): Promise<Of> {
  const [, of, kind, id, signature] = /^(([lc])(\d{1,15}))\.([\w-]{32})$/.exec(token) ?? [];
  if (of === undefined) throw new NotFound('No such link');
  const expected = Buffer.from(sign(await keyOf(db), of));
  if (!timingSafeEqual(expected, Buffer.from(signature))) throw new NotFound('No such link');
  if (kind === 'c') return { kind: 'contact', id: Number(id) };
  const [kept] = await keptNumbers(db, [Number(id)]);
  if (kept === undefined) throw new NotFound('No such link');
  return { kind: 'learner', id: kept };
}

export interface Less {
  kind: Of['kind'];
  /** Are they written to no more already? */
  isDone: boolean;
}

/** What a link would do, or has done. Opening it does nothing. @throws NotFound */
export async function lessAt(runtime: Runtime, token: string): Promise<Less> {
  const { kind, id } = await read(runtime, token);
  const { db } = runtime;
  if (kind === 'contact') return { kind, isDone: !(await mayReceive(db, id)) };
  const wishes = (await wishesOf(db, [id])).get(id) ?? [];
  return { kind, isDone: wishes.includes('email') || wishes.includes('all') };
}

/** Does what a link says: no more mail, or mail again. @throws NotFound */
export async function pressLess(runtime: Runtime, token: string, again: boolean): Promise<Less> {
  const { kind, id } = await read(runtime, token);
  const { db, clock } = runtime;
  if (kind === 'contact') {
    // Whether somebody may be told is for the learner to say: a contact takes themselves out, and is put back by staff.
    if (!again) await writing(db, (trx) => takeOutOfReceivers(trx, id));
    return lessAt(runtime, token);
  }
  const before = (await wishesOf(db, [id])).get(id) ?? [];
  const wishes = again ? before.filter((wish) => wish === 'sms') : [...before, 'email' as const];
  await note(runtime, id, wishes, null, clock.now());
  return lessAt(runtime, token);
}
