'use client';

import { useEffect, useState, type ComponentType } from 'react';

/**
 * A part that nobody sees when a page opens: its code comes once the page has come to life. A dynamic component that is drawn
 * at once would have the server name its code among what the page waits for.
 *
 * @example const Notices = afterLoad(() => import('@mantine/notifications').then((module) => module.Notifications));
 */
export function afterLoad<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  return function AfterLoad(props: P) {
    const [Part, setPart] = useState<ComponentType<P> | null>(null);
    useEffect(() => {
      // Without a connection it is asked for again with the next page.
      void load().then(
        (part) => setPart(() => part),
        () => undefined,
      );
    }, []);
    return Part && <Part {...props} />;
  };
}
