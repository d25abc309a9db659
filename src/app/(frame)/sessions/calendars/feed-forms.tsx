'use client';

import { Button, Code, CopyButton, Group, Modal, NativeSelect } from '@mantine/core';
import { useState } from 'react';
import { useAction } from '../../../_frame/use-action';
import { removeFeed, makeFeed } from '../actions';
import '@mantine/core/styles/Code.layer.css';

/** Makes a secret address; it is shown this once. */
export function MakeFeed({ courses }: { courses: { value: string; label: string }[] }) {
  const [course, setCourse] = useState('');
  const [address, setAddress] = useState<string | null>(null);
  const { pending, run } = useAction();
  const make = () =>
    run(() => makeFeed(course || null), {
      failed: 'No address was made',
      then: (path) => setAddress(`${window.location.origin}${path}`),
    });
  return (
    <>
      <Group mt="sm" align="end">
        <NativeSelect
          label="Sessions of"
          value={course}
          onChange={(event) => setCourse(event.currentTarget.value)}
          data={[{ value: '', label: 'all that you see' }, ...courses]}
        />
        <Button loading={pending} onClick={make}>
          Make an address
        </Button>
      </Group>
      <Modal opened={address !== null} onClose={() => setAddress(null)} title="Your calendar’s address" size="lg">
        <p>Give it to your calendar program as a calendar to subscribe to. It is shown this once.</p>
        <Code block>{address}</Code>
        <CopyButton value={address ?? ''}>
          {({ copied, copy }) => (
            <Button mt="sm" onClick={copy}>
              {copied ? 'Copied' : 'Copy'}
            </Button>
          )}
        </CopyButton>
      </Modal>
    </>
  );
}

export function DropFeed({ id, what }: { id: number; what: string }) {
  const { pending, run } = useAction();
  const drop = () => run(() => removeFeed(id), { done: 'The address is revoked' });
  return (
    <Button
      variant="default"
      size="compact-xs"
      loading={pending}
      onClick={drop}
      aria-label={`Revoke the address of ${what}`}
    >
      Revoke
    </Button>
  );
}
