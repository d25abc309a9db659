/** What somebody arranges on their own Watch: whom they set aside, and how many they can reach. */
import { IsIn, IsNotEmpty, IsOptional, Matches, MaxLength, ValidateIf } from 'class-validator';
import { dayOf } from '@/core/time/zone';
import { writing } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { addSetAside, endSetAside } from '@/data/drift/set-aside';
import { readSetting, readStaffSetting, writeStaffSetting } from '@/data/settings';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

/** How many people a week, when somebody has not said. */
const USUAL_CAPACITY = 10;

export class SetAsideInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(300, { message: 'is longer than 300 characters' }) reason!: string;
  @IsIn(['date', 'back'], { message: 'is not date or back' }) until!: 'date' | 'back';
  @ValidateIf((input: SetAsideInput) => input.until === 'date') @AsDay() date?: number;
}

class CapacityInput {
  @IsOptional() @Matches(/^([1-9]\d{0,2}|1000)$/, { message: 'is not a number from 1 to 1000' }) capacity?: string;
}

/** Takes learners off the viewer's own Watch. @throws InvalidInput, NotFound */
export async function setAside(runtime: Runtime, viewer: Viewer, learnerIds: readonly number[], values: Values) {
  const { db, clock, zone } = runtime;
  const input = readInput(SetAsideInput, values);
  const untilDay = input.until === 'date' ? input.date! : null;
  if (untilDay !== null && untilDay <= dayOf(clock.now(), zone)) {
    throw new InvalidInput([{ field: 'date', message: 'has to lie after today' }]);
  }
  const mine = await keepInScope(db, viewer, learnerIds);
  if (mine.length === 0) throw new NotFound('Nobody to set aside');
  await writing(db, (trx) => addSetAside(trx, viewer.staffId, mine, input.reason, untilDay, clock.now()));
}

/** Puts learners back on the viewer's Watch. */
export async function bringBack({ db, clock }: Runtime, viewer: Viewer, learnerIds: readonly number[]): Promise<void> {
  await endSetAside(db, viewer.staffId, learnerIds, clock.now());
}

/** How many people the viewer can reach in a week. */
export async function capacityOf({ db }: Runtime, viewer: Viewer): Promise<number> {
  return Number((await readStaffSetting(db, viewer.staffId, 'capacity')) ?? USUAL_CAPACITY);
}

/** @throws InvalidInput */
export async function setCapacity({ db }: Runtime, viewer: Viewer, values: Values): Promise<void> {
  const { capacity } = readInput(CapacityInput, values);
  await writeStaffSetting(db, viewer.staffId, 'capacity', capacity ?? String(USUAL_CAPACITY));
}

const TOLD = 'told_of_drift';

/** Is the viewer still to be told that readings are made by another model than those they knew? */
export async function isToBeToldOfDrift({ db }: Runtime, viewer: Viewer): Promise<boolean> {
  const changed = await readSetting(db, 'drift_changed');
  return changed !== null && (await readStaffSetting(db, viewer.staffId, TOLD)) !== changed;
}

/** Notes that the viewer has been told. */
export async function dismissModelNotice({ db }: Runtime, viewer: Viewer): Promise<void> {
  await writeStaffSetting(db, viewer.staffId, TOLD, (await readSetting(db, 'drift_changed')) ?? '');
}
