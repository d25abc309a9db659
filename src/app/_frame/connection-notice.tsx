'use client';

import { useSyncExternalStore } from 'react';
import { connection } from '@/ui/connection';
import classes from './frame.module.css';

/** Says that the server cannot be reached, over the page, so that no row moves under a finger. */
export function ConnectionNotice() {
  const isLost = useSyncExternalStore(connection.subscribe, connection.isLost, () => false);
  return (
    <div role="status" className={isLost ? classes.lost : undefined}>
      {isLost &&
        'There is no connection to Lee Shore. This page stays as it is, and goes on when the connection is back.'}
    </div>
  );
}
