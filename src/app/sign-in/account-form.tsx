'use client';

import { Alert, Button, PasswordInput, Stack, TextInput } from '@mantine/core';
import { useActionState } from 'react';
import type { SignInState } from './actions';
import '@mantine/core/styles/PasswordInput.layer.css';

interface Props {
  action: (before: SignInState, form: FormData) => Promise<SignInState>;
  /** With names, for the first account. */
  first?: boolean;
  submit: string;
}

const EMPTY: SignInState = { message: null, errors: [], values: {} };

/** The form of sign-in and of the first account. Works before scripts have loaded, too. */
export function AccountForm({ action, first = false, submit }: Props) {
  const [state, send, pending] = useActionState(action, EMPTY);
  const errorOf = (field: string) => {
    const fault = state.errors.find((error) => error.field === field);
    return fault ? `${field.replace('_', ' ')} ${fault.message}` : undefined;
  };
  const text = (name: string, label: string, autoComplete: string, type = 'text') => (
    <TextInput
      name={name}
      label={label}
      type={type}
      autoComplete={autoComplete}
      defaultValue={state.values[name]}
      error={errorOf(name)}
    />
  );
  return (
    <form action={send} noValidate>
      <Stack gap="sm">
        {state.message && (
          <Alert color="red" role="alert" variant="light">
            {state.message}
          </Alert>
        )}
        {first && text('given_name', 'Given name', 'given-name')}
        {first && text('family_name', 'Family name', 'family-name')}
        {text('email', 'E-mail', 'username', 'email')}
        <PasswordInput
          name="password"
          label="Password"
          description={first ? 'At least 12 characters' : undefined}
          autoComplete={first ? 'new-password' : 'current-password'}
          error={errorOf('password')}
          visibilityToggleButtonProps={{ 'aria-label': 'Show the password' }}
        />
        <Button type="submit" size="sm" loading={pending}>
          {submit}
        </Button>
      </Stack>
    </form>
  );
}
