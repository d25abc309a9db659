'use client';

import { Popover, Stack } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { DayRange } from '../../../_frame/day-range';
import { useOpening, type Target } from '../../../_frame/opens-later';
import { linkTo } from '../../../_list/list-link';

interface Props {
  params: Record<string, string | undefined>;
  target: Target;
}

const PERIODS = [
  ['today', 'Today'],
  ['week', 'This week'],
  ['7-days', 'The last 7 days'],
] as const;

/** The periods to choose from. */
export function PeriodChoices({ params, target: button }: Props) {
  const { opened, setOpened, target } = useOpening(button);
  const router = useRouter();
  const link = (changes: Record<string, string | undefined>) =>
    linkTo('/courses/item-use', { ...params, period: undefined, from: undefined, to: undefined, ...changes });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus width={340}>
      <Popover.Target>{target}</Popover.Target>
      <Popover.Dropdown onClick={(event) => (event.target as HTMLElement).closest('a') && setOpened(false)}>
        <Stack gap={8}>
          <Link href={link({})}>At any time</Link>
          {PERIODS.map(([period, title]) => (
            <Link key={period} href={link({ period })}>
              {title}
            </Link>
          ))}
          <DayRange
            from={params.from}
            to={params.to}
            onPick={(range) => {
              setOpened(false);
              router.push(link(range));
            }}
          />
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}
