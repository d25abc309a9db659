'use client';

import { notifications } from '@mantine/notifications';
import { useDeed } from './use-deed';
import type { Result } from './trying';

interface Says<T> {
  /** What is said when it is done; nothing where the page shows it by itself. */
  done?: string;
  /** What is said above the reason when it could not be. */
  failed?: string;
  then?: (value: T) => void;
}

/**
 * Does something on the server and says what came of it.
 *
 * @example
 * const { pending, perform } = useDoing();
 * <Button loading={pending} onClick={() => perform(() => endTheStaff(id, true), { done: 'Account ended' })} />
 */
export function useDoing() {
  const [pending, startDeed] = useDeed();
  const perform = <T>(work: () => Promise<Result<T>>, { done, failed = 'Nothing was changed', then }: Says<T> = {}) =>
    startDeed(async () => {
      const result = await work();
      if (!result.ok) {
        notifications.show({ title: failed, message: result.says, color: 'red' });
        return;
      }
      if (done) notifications.show({ title: done, message: '' });
      then?.(result.value);
    });
  return { pending, perform };
}
