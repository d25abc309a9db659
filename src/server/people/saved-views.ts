/** Lists kept under a name, and shared by their link. */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { HIDDEN_TEXT } from '@/data/person';
import { endView, listSavedViews, storeView, type SavedView } from '@/data/people/saved-views';
import type { Viewer } from '@/data/scope';
import { NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

export class SavedViewInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(60, { message: 'is longer than 60 characters' }) name!: string;
  @IsOptional() @MaxLength(2000, { message: 'is longer than 2000 characters' }) query?: string;
}

/** The viewer's own lists. A name, and what was searched for, may hold a person's name, so they are hidden too. */
export async function savedViews({ db }: Runtime, viewer: Viewer): Promise<SavedView[]> {
  const views = await listSavedViews(db, viewer.staffId);
  if (viewer.standInKey === null) return views;
  return views.map((view, index) => {
    const query = new URLSearchParams(view.query);
    query.delete('q');
    return { ...view, name: `List ${index + 1} ${HIDDEN_TEXT}`, query: query.toString() };
  });
}

/** Keeps a list under a name; gives the name as it is kept. @throws InvalidInput */
export async function saveView({ db }: Runtime, viewer: Viewer, values: Values): Promise<string> {
  const { name, query } = readInput(SavedViewInput, values);
  await storeView(db, viewer.staffId, name, query ?? '');
  return name;
}

/** Takes a view away; it can be put back. @throws NotFound */
export async function removeView({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  if (!(await endView(db, viewer.staffId, id, clock.now()))) throw new NotFound('No such view of yours');
}

/** Puts a view back that was taken away: the undo. @throws NotFound */
export async function restoreView({ db }: Runtime, viewer: Viewer, id: number): Promise<void> {
  if (!(await endView(db, viewer.staffId, id, null))) throw new NotFound('No such view of yours');
}
