'use client';

import { Button, Group } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { DayField } from '../../_frame/day-field';
import { linkTo } from '../../_list/list-link';

interface Props {
  path: string;
  params: Record<string, string | undefined>;
  from: string;
  to: string;
  /** What the first day says, and the button. */
  label: string;
  verb: string;
}

/** From when to when something is looked at; it stands in the link. */
export function PeriodForm({ path, params, from: begins, to: ends, label, verb }: Props) {
  const router = useRouter();
  const [from, setFrom] = useState(begins);
  const [to, setTo] = useState(ends);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        router.push(linkTo(path, { ...params, from, to }), { scroll: false });
      }}
    >
      <Group gap={8} my={10} align="end">
        <DayField label={label} value={from} onChange={setFrom} />
        <DayField label="up to, not included" value={to} onChange={setTo} />
        <Button type="submit" variant="default">
          {verb}
        </Button>
      </Group>
    </form>
  );
}
