'use server';

import { refresh } from 'next/cache';
import { InvalidInput, NotFound, wholeNumbers } from '@/server/input';
import { bringBack, setAside, setReach } from '@/server/own-watch';
import { runtime } from '@/server/runtime';
import { requireViewer } from '@/server/viewer';
import { lensNames, openView } from '@/server/view';
import { allMatching, readWatchFilter } from '@/server/watch';

/** What went wrong, in words; null when it was done. */
async function trying(work: () => Promise<void>): Promise<string | null> {
  try {
    await work();
    refresh();
    return null;
  } catch (error) {
    if (error instanceof InvalidInput)
      return error.errors.map((fault) => `The ${fault.field} ${fault.message}.`).join(' ');
    if (error instanceof NotFound) return error.message;
    throw error;
  }
}

export interface SetAsideForm {
  reason: string;
  until: 'date' | 'back';
  date: string;
}

export async function setThemAside(learnerIds: number[], form: SetAsideForm): Promise<string | null> {
  const viewer = await requireViewer();
  return trying(async () => setAside(await runtime(), viewer, wholeNumbers(learnerIds), { ...form }));
}

export async function bringThemBack(learnerIds: number[]): Promise<string | null> {
  const viewer = await requireViewer();
  return trying(async () => bringBack(await runtime(), viewer, wholeNumbers(learnerIds)));
}

export async function keepReach(reach: string): Promise<string | null> {
  const viewer = await requireViewer();
  return trying(async () => setReach(await runtime(), viewer, { reach }));
}

/** Ids of everybody who matches the list's filter, for an action on all of them. */
export async function everybodyMatching(query: string): Promise<number[]> {
  const viewer = await requireViewer();
  const opened = await runtime();
  const params = Object.fromEntries(new URLSearchParams(String(query)));
  const view = await openView(opened, viewer, lensNames(params.in));
  return allMatching(opened, view, readWatchFilter(params));
}
