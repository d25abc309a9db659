'use client';

import { useState } from 'react';
import { usePending } from './use-pending';
import type { Result } from '@/server/request/action';

/** What a form holds: a text for each field, or several. */
export type FormValues = Record<string, string | string[]>;

interface Options<F, T> {
  values: F;
  keep: (values: F) => Promise<Result<T>>;
}

/**
 * A form's values, what is wrong with each, and how to send them: the server's own checks answer, by field.
 *
 * @example
 * const form = useForm({ values: { name: '' }, keep: saveView });
 * <TextInput label="Name" {...form.field('name')} />
 * <Button loading={form.pending} onClick={() => form.submit({}, onClose)}>Save</Button>
 */
export function useForm<F extends object, T>({ values: given, keep }: Options<F, T>) {
  const [values, setValues] = useState(given);
  const [errors, setErrors] = useState<Partial<Record<keyof F, string>>>({});
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, start] = usePending();
  const set = (changes: Partial<F>) => setValues((known) => ({ ...known, ...changes }));
  /** Sends what is there, with what the way of sending adds; what is to happen then. */
  const submit = (adds: Partial<F>, then: (value: T) => void) => {
    if (pending) return;
    start(async () => {
      const result = await keep({ ...values, ...adds });
      if (result.ok) {
        setErrors({});
        setTrouble(null);
        then(result.value);
        return;
      }
      const ofFields = result.errors.filter(({ field }) => Object.hasOwn(values, field));
      setErrors(Object.fromEntries(ofFields.map(({ field, message }) => [field, message])) as typeof errors);
      setTrouble(ofFields.length < Math.max(1, result.errors.length) ? result.says : null);
    });
  };
  /** What a text field of that name takes. */
  const field = (name: keyof F & string) => ({
    value: (values[name] as string | undefined) ?? '',
    error: errors[name],
    onChange: (event: { currentTarget: { value: string } }) =>
      set({ [name]: event.currentTarget.value } as unknown as Partial<F>),
  });
  return { values, set, field, errors, trouble, pending, submit };
}
