'use client';

import { Button, Group } from '@mantine/core';
import { FormButton } from '../../../../../_frame/form-button';
import { useAction } from '../../../../../_frame/use-action';
import { giveCertificate, revokeCertificate } from './actions';

/** Gives a certificate. */
export function GiveCertificate({ learner, course }: { learner: string; course: string }) {
  const { pending, run } = useAction();
  return (
    <Button
      variant="default"
      loading={pending}
      onClick={() => run(() => giveCertificate(learner, course), { failed: 'No certificate was given' })}
    >
      Give a certificate
    </Button>
  );
}

/** Takes a certificate back, asked for once more. */
export function RevokeCertificate({ number }: { number: string }) {
  return (
    <Group gap={6}>
      <FormButton
        label="Take back…"
        button={{ size: 'compact-xs' }}
        title={`Take back certificate ${number}?`}
        says="Its number is good no more, and whoever checks it is told that there is no such number."
        fields={[]}
        values={{}}
        verb="Take back"
        keep={() => revokeCertificate(number)}
      />
    </Group>
  );
}
