'use client';

import { Alert, Button, Group, Modal, Stack } from '@mantine/core';
import type { ReactNode } from 'react';
import { FormField, type Field } from './form-field';
import type { Result } from '@/server/request/action';
import { useForm, type FormValues } from './use-form';

export interface FormDialogProps<F extends object, T> {
  /** Closed, it keeps what was typed for when it is opened again. */
  opened?: boolean;
  title: string;
  fields: readonly Field<NoInfer<F>>[];
  /** What the fields hold at first; one that is not named is empty. */
  values: Partial<NoInfer<F>>;
  /** What the button says. */
  verb: string;
  /** What happens, in words above the fields. */
  says?: ReactNode;
  /** What is wrong with the texts before they are sent, in words. */
  check?: (form: Partial<F>) => string | null;
  keep: (form: F) => Promise<Result<T>>;
  size?: 'md' | 'lg';
  /** The dialog closes by itself when it is done. */
  onClose: () => void;
  onDone?: (value: T) => void;
}

/** The form and its dialog, once they are wanted. */
export function FormDialogBody<F extends object, T>(props: FormDialogProps<F, T>) {
  const { opened = true, title, fields, values, verb, says, check, keep, size = 'md', onClose, onDone } = props;
  const empty = Object.fromEntries(fields.map(({ name, type }) => [name, type === 'labels' ? [] : '']));
  const begin = { ...empty, ...values } as F;
  const form = useForm({ values: begin, keep });
  const send = () =>
    form.submit({}, (value) => {
      form.set(begin);
      onClose();
      onDone?.(value);
    });
  const fault = check?.(form.values) ?? null;
  return (
    <Modal opened={opened} onClose={onClose} title={title} size={size}>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        <Stack gap="sm">
          {says && <div>{says}</div>}
          {fields.map(
            (field, index) =>
              (field.shown?.(form.values) ?? true) && (
                <FormField
                  key={field.name}
                  field={field as Field<FormValues>}
                  first={index === 0}
                  value={(form.values as FormValues)[field.name]}
                  values={form.values as FormValues}
                  error={form.errors[field.name]}
                  onChange={(value) => form.set({ [field.name]: value } as Partial<F>)}
                  onSend={send}
                />
              ),
          )}
          {(fault ?? form.trouble) && (
            <Alert color="red" role="alert">
              {fault ?? form.trouble}
            </Alert>
          )}
          <Group>
            <Button type="submit" loading={form.pending}>
              {verb}
            </Button>
            <Button variant="default" onClick={onClose}>
              Cancel
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
