'use client';

import { Button, Group, Popover } from '@mantine/core';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { DayField } from './day-field';
import { useOpening, type Target } from './opens-later';

interface Props {
  asOf: string | null;
  today: string;
  /** The first date there is a reading of. */
  first: string | null;
  target: Target;
}

/** The days to choose from. */
export function AsOfDays({ asOf, today, first, target: button }: Props) {
  const { opened, setOpened, target } = useOpening(button);
  const [date, setDate] = useState(asOf ?? '');
  const router = useRouter();
  const path = usePathname();
  const search = useSearchParams();
  const go = (to: string | null) => {
    const params = new URLSearchParams(search);
    for (const name of ['page', 'person', 'before']) params.delete(name);
    if (to) params.set('as_of', to);
    else params.delete('as_of');
    setOpened(false);
    router.push(params.size > 0 ? `${path}?${params}` : path);
  };
  const ago = (days: number) => dateOfDay(dayFromDate(today)! - days);
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus>
      <Popover.Target>{target}</Popover.Target>
      <Popover.Dropdown>
        <Group gap={6} mb="xs">
          <Button variant="default" size="compact-xs" onClick={() => go(null)} disabled={asOf === null}>
            Now
          </Button>
          <Button variant="default" size="compact-xs" onClick={() => go(ago(1))}>
            Yesterday
          </Button>
          <Button variant="default" size="compact-xs" onClick={() => go(ago(7))}>
            A week ago
          </Button>
          <Button variant="default" size="compact-xs" onClick={() => go(ago(28))}>
            4 weeks ago
          </Button>
        </Group>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (date) go(date);
          }}
        >
          <Group align="end" gap={8}>
            <DayField label="The end of" max={today} min={first} value={date} onChange={setDate} nested />
            <Button type="submit">Look</Button>
          </Group>
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}
