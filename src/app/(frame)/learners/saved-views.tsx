'use client';

import { Button } from '@mantine/core';
import { opensLater } from '../../_frame/opens-later';
import type { ViewProps } from './view-choices';

const ViewChoices = opensLater(() => import('./view-choices').then((module) => module.ViewChoices));

/** Lists kept under a name. */
export function SavedViews(props: Omit<ViewProps, 'target'>) {
  return (
    <ViewChoices
      {...props}
      target={
        <Button variant="default" size="compact-xs">
          Views
        </Button>
      }
    />
  );
}
