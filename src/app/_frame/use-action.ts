'use client';

import { notifications } from '@mantine/notifications';
import { offerUndo } from './offer-undo';
import { usePending } from './use-pending';
import type { Result } from '@/server/request/action';

interface Says<T> {
  /** What is said when it is done; nothing where the page shows it by itself. */
  done?: string;
  /** What is said above the reason when it could not be. */
  failed?: string;
  then?: (value: T) => void;
  /** Takes it back: offered for ten seconds beside what was done. */
  undo?: (value: T) => Promise<Result<unknown>>;
}

/**
 * Does something on the server and says what came of it.
 *
 * @example
 * const { pending, run } = useAction();
 * <Button loading={pending} onClick={() => run(() => endStaff(id, true), { done: 'Account ended' })} />
 */
export function useAction() {
  const [pending, start] = usePending();
  const run = <T>(
    work: () => Promise<Result<T>>,
    { done, failed = 'Nothing was changed', then, undo }: Says<T> = {},
  ): void =>
    start(async () => {
      const result = await work();
      if (!result.ok) {
        notifications.show({ title: failed, message: result.says, color: 'red' });
        return;
      }
      if (done && undo)
        offerUndo(done, () => run(() => undo(result.value), { done: 'Taken back', then: () => then?.(result.value) }));
      else if (done) notifications.show({ title: done, message: '' });
      then?.(result.value);
    });
  return { pending, run };
}
