'use client';

import { Button, Group } from '@mantine/core';
import { EVERY } from '@/core/imports/every';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { addAddress, fetchNow, removeAddress } from '../actions';

/** Has an address fetched at once, or no more. */
export function AddressActions({ id, address }: { id: number; address: string }) {
  const { pending, run } = useAction();
  return (
    <Group gap={6} wrap="nowrap">
      <Button
        variant="default"
        size="compact-xs"
        loading={pending}
        onClick={() => run(() => fetchNow(id), { done: 'It is being fetched' })}
        aria-label={`Fetch ${address} now`}
      >
        Fetch now
      </Button>
      <Button
        variant="default"
        size="compact-xs"
        loading={pending}
        onClick={() => run(() => removeAddress(id), { done: 'It is fetched no more. What came from it stays' })}
        aria-label={`Fetch ${address} no more`}
      >
        Remove
      </Button>
    </Group>
  );
}

export function AddAddress({ parts }: { parts: { value: string; label: string }[] }) {
  return (
    <FormButton
      label="Add an address…"
      title="Add an address"
      says="It is fetched again and again, and taken when it has changed. Bring one such file in by hand first, so that its columns are settled."
      verb="Add"
      button={{ mt: 8 }}
      fields={[
        { name: 'url', label: 'Address (https or webcal)' },
        { name: 'source', label: 'Source' },
        {
          name: 'every',
          label: 'Fetched',
          type: 'choice',
          choices: Object.entries(EVERY).map(([value, label]) => ({ value, label })),
        },
        {
          name: 'part',
          label: 'Course of a calendar (may be left out)',
          type: 'choice',
          choices: [{ value: '', label: 'as its events say' }, ...parts],
        },
      ]}
      values={{ every: '1440', source: 'files', part: '' }}
      keep={addAddress}
    />
  );
}
