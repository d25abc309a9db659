/** What was made without an outline or a roster: seen, confirmed, made one with what is known, or dropped. */
import { IsIn, IsNotEmpty, IsOptional } from 'class-validator';
import { addAudit } from '@/data/audit';
import { rawTransaction, withRaw, writing } from '@/data/db';
import { removeToldTwice } from '@/data/access/event-writer';
import { joinCourses, joinItems, mergeInto } from '@/data/imports/join';
import {
  NameTaken,
  PROVISIONAL_KINDS,
  bringBack,
  confirm,
  courseOfItem,
  drop,
  droppedRows,
  findProvisional,
  joinTarget,
  provisionalRows,
  type ProvisionalKind,
  type ProvisionalRow,
} from '@/data/imports/provisional';
import { anyClosed } from '@/data/privacy/retention';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

/** Shown of each kind at once. */
const SHOWN = 500;

/** Everything provisional; leads alone. */
export async function provisional({ db }: Runtime, viewer: Viewer): Promise<ProvisionalRow[]> {
  requireLead(viewer);
  return withRaw(db, (raw) => provisionalRows(raw, SHOWN));
}

/** What was dropped and can be brought back; leads alone. */
export async function dropped({ db }: Runtime, viewer: Viewer) {
  requireLead(viewer);
  return droppedRows(db);
}

const DEEDS = ['confirm', 'join', 'drop'] as const;

class ProvisionalInput {
  @IsNotEmpty({ message: 'is missing' })
  @IsIn(DEEDS, { message: `is not one of ${DEEDS.join(', ')}` })
  do!: (typeof DEEDS)[number];
  /** The id of what it is made one with. */
  @IsOptional() with?: string;
}

function isProvisionalKind(kind: string): kind is ProvisionalKind {
  return (PROVISIONAL_KINDS as readonly string[]).includes(kind);
}

/** Confirms, joins or drops one of them; leads alone. @throws NotFound, InvalidInput */
export async function settleProvisional(
  runtime: Runtime,
  viewer: Viewer,
  kind: string,
  id: number,
  values: Values,
): Promise<void> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const row =
    isProvisionalKind(kind) && Number.isInteger(id) ? await withRaw(db, (raw) => findProvisional(raw, kind, id)) : null;
  if (row === null) throw new NotFound('Nothing of the kind');
  const input = readInput(ProvisionalInput, values);
  const at = clock.now();
  if (input.do === 'confirm') await rawTransaction(db, (raw) => confirm(raw, row.kind, id));
  else if (input.do === 'join') await join(runtime, row, input.with);
  else await rawTransaction(db, (raw) => drop(raw, row, { at, staffId: viewer.staffId || null }));
  if (input.do === 'join') await rawTransaction(db, (raw) => removeToldTwice(raw, zone));
  const what = { confirm: 'confirmed', join: `made one with ${input.with}`, drop: 'dropped' }[input.do];
  await addAudit(db, { at, staff_id: viewer.staffId, what, subject: `${row.kind} ${row.name}` });
}

async function join(
  { db, clock, zone }: Runtime,
  { kind, id }: ProvisionalRow,
  withId: string | undefined,
): Promise<void> {
  const target = withId ? await withRaw(db, (raw) => joinTarget(raw, kind, id, withId)) : null;
  if (target === null)
    throw new InvalidInput([{ field: 'with', message: `is no ${kind} that is known: ${withId ?? 'nothing'}` }]);
  if (kind === 'learner') await writing(db, (trx) => mergeInto(trx, [id, target], clock.now(), zone));
  else
    await rawTransaction(db, (raw) => {
      if (kind === 'course') {
        // What the one has would come into days of the other that are closed.
        if (anyClosed(raw, [id, target]))
          throw new InvalidInput([
            { field: 'with', message: 'has days whose events have left the log, or this one has' },
          ]);
        joinCourses(raw, [id, target]);
      } else joinItems(raw, courseOfItem(raw, id), [[id, target]]);
    });
}

/** Brings back what was dropped; leads alone. @throws NotFound, InvalidInput */
export async function bringBackDropped({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  const name = await rawTransaction(db, (raw) => bringBack(raw, id)).catch((error: unknown) => {
    if (!(error instanceof NameTaken)) throw error;
    throw new InvalidInput([{ field: 'id', message: `is a course whose code another has by now: ${error.message}` }]);
  });
  if (name === null) throw new NotFound('Nothing of the kind');
  await addAudit(db, { at: clock.now(), staff_id: viewer.staffId, what: 'brought back', subject: name });
}
