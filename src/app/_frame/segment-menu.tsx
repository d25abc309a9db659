'use client';

import { Button } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import classes from './frame.module.css';
import { opensLater } from './opens-later';

const SegmentChoices = opensLater(() => import('./segment-choices').then((module) => module.SegmentChoices));

interface Props {
  own: string;
  current: string | null;
  /** What the part looked at is called; null for the whole caseload. */
  label: string | null;
}

/** Whose learners are shown: the whole caseload, a caseload of one's own, a course, a group or an organisation. */
export function SegmentMenu({ own, current, label }: Props) {
  return (
    <SegmentChoices
      own={own}
      current={current}
      target={
        <Button variant="default" rightSection={<IconChevronDown size={14} />}>
          <span className={classes.barKey}>Caseload:&nbsp;</span>
          {label ?? own}
        </Button>
      }
    />
  );
}
