'use client';

import { Button, type ButtonProps } from '@mantine/core';
import { useState, type ComponentProps } from 'react';
import { FormDialog, fetchForms } from './form-dialog';

type Props<F extends object, T> = Omit<ComponentProps<typeof FormDialog<F, T>>, 'opened' | 'onClose'> & {
  /** What the button that opens the form says. */
  label: string;
  button?: ButtonProps & { 'aria-label'?: string };
};

/** A button that opens a form, and the form. */
export function FormButton<F extends object, T>({ label, button, ...form }: Props<F, T>) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button
        variant="default"
        {...button}
        onClick={() => setOpen(true)}
        onPointerEnter={fetchForms}
        onFocus={fetchForms}
      >
        {label}
      </Button>
      {open && <FormDialog {...form} onClose={() => setOpen(false)} />}
    </>
  );
}
