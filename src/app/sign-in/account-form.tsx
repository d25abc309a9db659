'use client';

import { Alert, Button, PasswordInput, Stack, TextInput } from '@mantine/core';
import { useActionState } from 'react';
import type { SignInState } from './actions';
import '@mantine/core/styles/PasswordInput.layer.css';

/** A field of a form for somebody who is not signed in. */
export interface AccountField {
  name: string;
  label: string;
  autoComplete: string;
  type?: 'text' | 'email' | 'password';
  description?: string;
  /** It cannot be changed here. */
  value?: string;
}

interface Props {
  action: (before: SignInState, form: FormData) => Promise<SignInState>;
  fields: readonly AccountField[];
  /** What is sent beside them. */
  hidden?: Readonly<Record<string, string>>;
  submit: string;
}

const EMPTY: SignInState = { message: null, errors: [], values: {} };

/** The form of sign-in, and of what leads to it. Works before scripts have loaded, too. */
export function AccountForm({ action, fields, hidden = {}, submit }: Props) {
  const [state, send, pending] = useActionState(action, EMPTY);
  const errorOf = (field: string) => {
    const fault = state.errors.find((error) => error.field === field);
    return fault ? `${field.replace('_', ' ')} ${fault.message}` : undefined;
  };
  return (
    <form action={send} noValidate>
      <Stack gap="sm">
        {state.message && (
          <Alert color="red" role="alert" variant="light">
            {state.message}
          </Alert>
        )}
        {Object.entries(hidden).map(([name, value]) => (
          <input key={name} type="hidden" name={name} value={value} />
        ))}
        {fields.map(({ name, label, autoComplete, type = 'text', description, value }) =>
          type === 'password' ? (
            <PasswordInput
              key={name}
              name={name}
              label={label}
              description={description}
              autoComplete={autoComplete}
              error={errorOf(name)}
              visibilityToggleButtonProps={{ 'aria-label': 'Show the password' }}
            />
          ) : (
            <TextInput
              key={name}
              name={name}
              label={label}
              description={description}
              type={type}
              autoComplete={autoComplete}
              defaultValue={value ?? state.values[name]}
              readOnly={value !== undefined}
              error={errorOf(name)}
            />
          ),
        )}
        <Button type="submit" size="sm" loading={pending}>
          {submit}
        </Button>
      </Stack>
    </form>
  );
}
