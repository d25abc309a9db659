'use client';

import { onceOpened } from '@/ui/once-opened';
import type { FormDialogBody } from './form-dialog-body';

const load = () => import('./form-dialog-body').then((module) => module.FormDialogBody);

/** Fetches what forms are drawn with, as soon as somebody seems to want one. */
export function fetchForms(): void {
  // Without a connection it is asked for again when one is opened.
  void load().catch(() => undefined);
}

/**
 * A form in a dialog, with what is wrong beside each field. Its fields are those of the action that takes them.
 *
 * @example
 * <FormDialog title="Add a break" verb="Add" keep={addBreak} onClose={close} values={{ course }}
 *   fields={[{ name: 'from', label: 'First day', type: 'day' }, { name: 'reason', label: 'Reason' }]} />
 */
// The form's fields are a parameter of the component's type, which a wrapper cannot carry.
export const FormDialog = onceOpened(load as never) as typeof FormDialogBody;
