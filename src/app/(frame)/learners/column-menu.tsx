'use client';

import { Button } from '@mantine/core';
import { opensLater } from '../../_frame/opens-later';
import type { ColumnProps } from './column-choices';

const ColumnChoices = opensLater(() => import('./column-choices').then((module) => module.ColumnChoices));

/** Chooses the columns of the list of learners. */
export function ColumnMenu(props: Omit<ColumnProps, 'target'>) {
  return (
    <ColumnChoices
      {...props}
      target={
        <Button variant="default" size="compact-xs">
          Columns
        </Button>
      }
    />
  );
}
