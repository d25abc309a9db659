'use client';

import { TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { linkTo } from '../../_deck/list-link';
import type { LogParams } from './log-params';
import classes from './access-log.module.css';

/** Goes to the events of a date without narrowing the log to it. */
export function JumpTo({ params, last }: { params: LogParams; last: string }) {
  const router = useRouter();
  return (
    <form
      action="/access-log"
      className={classes.jump}
      onSubmit={(event) => {
        event.preventDefault();
        const date = new FormData(event.currentTarget).get('jump');
        if (date) router.push(linkTo('/access-log', { ...params, jump: String(date) }));
      }}
    >
      {Object.entries(params).map(([name, value]) => (
        <input key={name} type="hidden" name={name} value={value} />
      ))}
      <label htmlFor="jump">Jump to</label>
      <TextInput
        id="jump"
        name="jump"
        type="date"
        size="xs"
        max={last}
        onChange={(event) => event.currentTarget.value && event.currentTarget.form?.requestSubmit()}
      />
    </form>
  );
}
