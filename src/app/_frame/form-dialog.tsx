'use client';

import dynamic from 'next/dynamic';
import { useRef } from 'react';
import type { FormDialogBody, FormDialogProps } from './form-dialog-body';

const load = () => import('./form-dialog-body').then((module) => module.FormDialogBody);
const Loaded = dynamic(load, { ssr: false }) as typeof FormDialogBody;

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
export function FormDialog<F extends object, T>(props: FormDialogProps<F, T>) {
  const { opened = true } = props;
  const wasOpened = useRef(false);
  wasOpened.current ||= opened;
  return wasOpened.current ? <Loaded {...props} /> : null;
}
