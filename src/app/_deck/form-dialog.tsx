'use client';

import { Alert, Button, Group, Modal, NativeSelect, Stack, TextInput } from '@mantine/core';
import { useState, useTransition } from 'react';
import type { Result } from './trying';

export interface Field {
  name: string;
  label: string;
  type?: 'text' | 'date' | 'datetime-local' | 'email' | 'tel' | 'password';
  description?: string;
  /** A choice instead of a text. */
  choices?: { value: string; label: string }[];
  /** Texts to choose from, or to leave aside. */
  offers?: string[];
}

interface Props<T> {
  title: string;
  fields: readonly Field[];
  values: Record<string, string>;
  /** What the button says. */
  verb: string;
  /** What happens, in words above the fields. */
  says?: string;
  keep: (form: Record<string, string>) => Promise<Result<T>>;
  /** Hears of what is typed, where one field depends on another. */
  onChange?: (form: Record<string, string>) => void;
  onClose: () => void;
  onDone?: (value: T) => void;
}

/** A small form in a dialog, with what is wrong beside each field. */
export function FormDialog<T>({ title, fields, values, verb, says, keep, onChange, onClose, onDone }: Props<T>) {
  const [form, setForm] = useState(values);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const submit = () =>
    startTransition(async () => {
      const result = await keep(form);
      if (result.ok) {
        onDone?.(result.value);
        onClose();
        return;
      }
      const named = result.errors.filter(({ field }) => fields.some((one) => one.name === field));
      setErrors(Object.fromEntries(named.map(({ field, message }) => [field, message])));
      setTrouble(named.length === 0 ? result.says : null);
    });
  return (
    <Modal opened onClose={onClose} title={title} closeButtonProps={{ 'aria-label': 'Close' }}>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <Stack gap="sm">
          {says && <div>{says}</div>}
          {fields.map(({ name, label, type, description, choices, offers }, index) => {
            const common = {
              label,
              description,
              error: errors[name],
              value: form[name] ?? '',
              'data-autofocus': index === 0 || undefined,
              onChange: (event: React.ChangeEvent<HTMLInputElement | HTMLSelectElement>) => {
                const next = { ...form, [name]: event.currentTarget.value };
                setForm(next);
                onChange?.(next);
              },
            };
            if (choices) return <NativeSelect key={name} {...common} data={choices} />;
            const list = offers ? `offers-${name}` : undefined;
            return (
              <div key={name}>
                <TextInput {...common} type={type} maxLength={500} list={list} />
                {offers && (
                  <datalist id={list}>
                    {offers.map((offer) => (
                      <option key={offer} value={offer} />
                    ))}
                  </datalist>
                )}
              </div>
            );
          })}
          {trouble && (
            <Alert color="red" role="alert">
              {trouble}
            </Alert>
          )}
          <Group>
            <Button type="submit" loading={pending}>
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
