'use server';

import { revalidatePath } from 'next/cache';
import { redirect } from 'next/navigation';
import { setNamesHidden } from '@/server/people/hidden-names';
import { runtime } from '@/server/runtime';
import { requireViewer, sessionToken } from '@/server/request/viewer';

/** Covers names or show them, and goes to the Watch: the page at hand may have a real id in its address. */
export async function switchNames(namesHidden: boolean): Promise<void> {
  await requireViewer();
  await setNamesHidden(await runtime(), (await sessionToken())!, namesHidden === true);
  // Nothing that the browser kept of earlier pages may be shown again.
  revalidatePath('/', 'layout');
  redirect('/watch');
}
