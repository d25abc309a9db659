'use client';

import { Alert, Button } from '@mantine/core';
import { useState } from 'react';
import { useInBrowser } from '@/ui/in-browser';
import { signWithPasskey } from '@/ui/passkey';
import { askForPasskey, enterByPasskey } from './actions';

/**
 * Signs in by a passkey, where the browser knows them.
 *
 * @param without why none can be used at this address; null where one can
 * @param second after a password, by a passkey of the same person
 */
export function ByPasskey({ without, second = false }: { without: string | null; second?: boolean }) {
  const [says, setSays] = useState<string | null>(null);
  const [pending, setPending] = useState(false);
  const isKnown = useInBrowser(() => typeof window.PublicKeyCredential === 'function');
  if (without !== null || !isKnown) return null;
  const enter = async () => {
    setPending(true);
    setSays(null);
    const done = await signWithPasskey(
      () => askForPasskey(second),
      (answer) => enterByPasskey(answer, second),
    );
    if (done === null) window.location.assign('/');
    else {
      setSays(done);
      setPending(false);
    }
  };
  return (
    <>
      {says !== null && (
        <Alert color="red" role="alert" variant="light" mt="sm">
          {says}
        </Alert>
      )}
      <Button variant="default" size="sm" fullWidth mt="sm" loading={pending} onClick={() => void enter()}>
        {second ? 'Use a passkey' : 'Sign in with a passkey'}
      </Button>
    </>
  );
}
