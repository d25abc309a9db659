'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { dayFromDate } from '@/core/time/zone';
import { DayField } from '../../_frame/day-field';
import { linkTo } from '../../_list/list-link';
import type { Params } from '@/server/request/list';
import classes from './access-log.module.css';

/** Goes to the events of a date without narrowing the log to it. */
export function JumpTo({ params, last }: { params: Params; last: string }) {
  const router = useRouter();
  const [date, setDate] = useState('');
  const go = (jump: string) => {
    if (dayFromDate(jump) !== null && jump <= last) router.push(linkTo('/access-log', { ...params, jump }));
  };
  return (
    <form
      className={classes.jump}
      onSubmit={(event) => {
        event.preventDefault();
        go(date);
      }}
    >
      <label htmlFor="jump">Jump to</label>
      <DayField id="jump" size="xs" w={150} max={last} value={date} onChange={setDate} onPick={go} />
    </form>
  );
}
