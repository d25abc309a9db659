'use client';

import { TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { linkTo } from '../../_deck/list-link';
import type { LogParams } from './log-params';

/** Goes to the events of a date without narrowing the log to it. */
export function JumpTo({ params, last }: { params: LogParams; last: string }) {
  const router = useRouter();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const date = new FormData(event.currentTarget).get('date');
        if (date) router.push(linkTo('/access-log', { ...params, jump: String(date) }));
      }}
    >
      <TextInput
        name="date"
        type="date"
        size="xs"
        max={last}
        aria-label="Jump to a date, then Enter"
        title="Jump to a date"
        onChange={(event) => event.currentTarget.value && event.currentTarget.form?.requestSubmit()}
      />
    </form>
  );
}
