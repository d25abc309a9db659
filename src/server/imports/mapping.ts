/** Which of a file's columns is what: as sent with the file, or as remembered for its source. */
import { IsIn, IsNotEmpty, IsObject } from 'class-validator';
import { ACTION_KINDS, type ActionKind } from '@/core/access/kinds';
import { columnNames, type FileKindName } from '@/core/imports/kinds';
import { DATE_ORDERS, mappingFaults, type DateOrder, type Mapping } from '@/core/imports/mapping';
import { IsZone } from '@/core/imports/validators';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import { findMapping, forgetMapping, keepMapping, setActionKind } from '@/data/imports/mappings';
import type { Viewer } from '@/data/scope';
import { isLead } from '@/core/staff/rights';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

class MappingInput {
  @IsObject({ message: 'is not an object of headings' }) columns!: Record<string, string | null>;
  @IsNotEmpty({ message: 'is missing: is the day or the month first?' })
  @IsIn(DATE_ORDERS, { message: `is not one of ${DATE_ORDERS.join(', ')}` })
  dates!: DateOrder;
  @IsZone() timezone!: string;
}

/** Reads a mapping from JSON. @throws InvalidInput */
function readMapping(kind: FileKindName, text: string): Mapping {
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    throw new InvalidInput([{ field: 'mapping', message: 'is not JSON' }]);
  }
  const { columns, dates, timezone } = readInput(MappingInput, Object(parsed) as Record<string, unknown>);
  const ours = columnNames(kind);
  const strange = Object.values(columns).find((to) => to !== null && !ours.includes(String(to)));
  if (strange !== undefined) {
    throw new InvalidInput([
      { field: 'mapping', message: `names a column that a file of the kind ${kind} does not have: ${strange}` },
    ]);
  }
  const mapping = { columns, dates, timezone };
  const faults = mappingFaults(kind, Object.keys(columns), mapping);
  if (faults.length > 0) throw new InvalidInput(faults.map((message) => ({ field: 'mapping', message })));
  return mapping;
}

/**
 * The mapping a file is read by; null for our own headings. One that comes with it is remembered for the source where a lead
 * sends it: whoever brings in their own session's file settles nothing for others. @throws InvalidInput
 */
export async function mappingFor(
  db: Db,
  viewer: Viewer,
  source: string,
  kind: FileKindName,
  sent: string | undefined,
): Promise<Mapping | null> {
  if (sent === undefined) return findMapping(db, source, kind);
  const mapping = readMapping(kind, sent);
  if (isLead(viewer)) await keepMapping(db, source, kind, mapping);
  return mapping;
}

/** Forgets a source's mapping; leads alone. @throws NotFound */
export async function removeMapping({ db, clock }: Runtime, viewer: Viewer, source: string, kind: FileKindName) {
  if (!isLead(viewer) || !(await findMapping(db, source, kind))) throw new NotFound('No such mapping');
  await writing(db, async (trx) => {
    await forgetMapping(trx, source, kind);
    const subject = `${kind} files from ${source}`;
    await addAudit(trx, { at: clock.now(), staff_id: viewer.staffId, what: 'forgot a mapping', subject });
  });
}

class ActionInput {
  @IsIn(ACTION_KINDS, { message: `is not one of ${ACTION_KINDS.join(', ')}` }) kind!: ActionKind;
}

/**
 * Says what kind of action a source's word is; leads alone. The figures that rest on it are made
 * anew in the background. @throws InvalidInput, NotFound
 */
export async function settleAction({ db, clock }: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  requireLead(viewer);
  const { kind } = readInput(ActionInput, values);
  await writing(db, async (trx) => {
    const before = await setActionKind(trx, id, kind);
    if (!before) throw new NotFound('No such action');
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'mapped an action',
      subject: before.word,
      changes: before.kind === kind ? {} : { kind: [before.kind, kind] },
    });
  });
}
