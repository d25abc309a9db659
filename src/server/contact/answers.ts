/** Answers that were read, or wait to be. */
import { noteRead } from '@/data/contact/replies';
import type { Viewer } from '@/data/scope';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';

/** Says that the viewer has read an answer, or that it is to be read again. @throws NotFound for one not theirs to read */
export async function readAnswer({ db, clock }: Runtime, viewer: Viewer, id: number, isRead: boolean): Promise<void> {
  if (!(await noteRead(db, viewer, id, isRead ? clock.now() : null))) throw new NotFound('No such answer');
}
