'use server';

import type { SavedCheck } from '@/data/item-use/checks';
import { dropCheck, keepCheck, type CheckInput } from '@/server/item-use/checks';
import { fields, type FormOf } from '@/server/request/input';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/request/viewer';
import { trying, type Result } from '../../../_frame/trying';

export async function keepTheCheck(form: FormOf<CheckInput>): Promise<Result> {
  const viewer = await requireViewer();
  return trying(async () => keepCheck(await runtime(), viewer, { ...form }));
}

export async function dropTheCheck(id: number): Promise<Result<SavedCheck>> {
  const viewer = await requireViewer();
  return trying(async () => dropCheck(await runtime(), viewer, Number(id)));
}

/** Puts back a check that was just removed: it is asked anew. */
export async function bringTheCheckBack(check: SavedCheck): Promise<Result> {
  const viewer = await requireViewer();
  const { name, limit_count, query } = fields(check);
  return trying(async () => keepCheck(await runtime(), viewer, { name, limit: String(limit_count), query }));
}
