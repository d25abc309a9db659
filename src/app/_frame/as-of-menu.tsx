'use client';

import { Button } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import classes from './frame.module.css';
import { opensLater } from './opens-later';

const AsOfDays = opensLater(() => import('./as-of-days').then((module) => module.AsOfDays));

interface Props {
  /** The instant shown, in words. */
  says: string;
  asOf: string | null;
  today: string;
  /** The first date there is a reading of. */
  first: string | null;
}

/** As of when: now, or the end of a past day. */
export function AsOfMenu({ says, asOf, ...days }: Props) {
  return (
    <AsOfDays
      asOf={asOf}
      {...days}
      target={
        <Button variant={asOf === null ? 'default' : 'light'} rightSection={<IconChevronDown size={14} />}>
          <span className={classes.barKey}>As of&nbsp;</span>
          {says}
        </Button>
      }
    />
  );
}
