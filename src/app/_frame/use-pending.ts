'use client';

import { notifications } from '@mantine/notifications';
import { useCallback, useTransition } from 'react';
import { NoConnection } from '@/ui/connection';

/**
 * A transition in which something is done on the server. Without a connection that is said, and the page stays with
 * all that was typed; any other fault is for the error page.
 *
 * @returns whether it is under way, and how to begin it
 * @example
 * const [pending, start] = usePending();
 * <Button loading={pending} onClick={() => start(async () => void (await saveCapacity(value)))} />
 */
export function usePending() {
  const [pending, startTransition] = useTransition();
  const start = useCallback(
    (deed: () => Promise<void>) =>
      startTransition(async () => {
        try {
          await deed();
        } catch (error) {
          if (!(error instanceof NoConnection)) throw error;
          notifications.show({
            title: 'There is no connection',
            message: 'It was not done, or its answer was lost. Try again when the connection is back.',
            color: 'red',
          });
        }
      }),
    [],
  );
  return [pending, start] as const;
}
