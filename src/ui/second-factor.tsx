'use client';

import { Button, PasswordInput, Stack, TextInput } from '@mantine/core';
import { useState, type FormEvent } from 'react';
import '@mantine/core/styles/PasswordInput.layer.css';
import classes from './second-factor.module.css';

interface Offered {
  secret: string;
  /** The same as a picture, as a data URL. */
  picture: string;
}

type Kept = { ok: true; value: string[] } | { ok: false; says: string; errors: { field: string; message: string }[] };

interface Props {
  offered: Offered;
  /** Is one's password to be said once more? */
  withPassword?: boolean;
  keep: (values: { secret: string; code: string; current: string }) => Promise<Kept>;
  /** What is done with the codes on paper that were made. */
  onKept: (paper: string[]) => void;
}

/** An app for one-time codes is set up: its picture, and the first code that it shows. */
export function CodesForm({ offered, withPassword = false, keep, onKept }: Props) {
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [pending, setPending] = useState(false);
  const send = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const text = (name: string) => String(form.get(name) ?? '');
    setPending(true);
    const kept = await keep({ secret: offered.secret, code: text('code'), current: text('current') });
    setPending(false);
    if (kept.ok) return onKept(kept.value);
    const named = Object.fromEntries(kept.errors.map(({ field, message }) => [field, message]));
    setErrors(kept.errors.length > 0 ? named : { code: kept.says });
  };
  return (
    <form onSubmit={(event) => void send(event)} noValidate>
      <Stack gap="sm">
        <img className={classes.picture} src={offered.picture} alt="The picture that an app for one-time codes reads" />
        <div>
          Without a camera, type this into the app: <code className={classes.secret}>{offered.secret}</code>
        </div>
        {withPassword && (
          <PasswordInput
            name="current"
            label="The password you have now"
            autoComplete="current-password"
            error={errors.current}
            visibilityToggleButtonProps={{ 'aria-label': 'Show the password' }}
          />
        )}
        <TextInput
          name="code"
          label="The six digits it shows"
          autoComplete="one-time-code"
          inputMode="numeric"
          error={errors.code ?? errors.secret}
        />
        <Button type="submit" loading={pending}>
          Set it up
        </Button>
      </Stack>
    </form>
  );
}

/** Codes on paper, shown once. */
export function PaperCodes({ codes }: { codes: readonly string[] }) {
  return (
    <>
      <p>
        These are your recovery codes. Each is good once, in place of a code of the app, for when the telephone is lost.
        Print them or write them down: they are shown this once.
      </p>
      <ul className={classes.paper} aria-label="Recovery codes">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
    </>
  );
}
