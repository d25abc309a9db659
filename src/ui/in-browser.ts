import { useSyncExternalStore } from 'react';

const never = () => () => undefined;

/** What only a browser can tell: false on the server, and until the page is live. */
export function useInBrowser(tell: () => boolean): boolean {
  return useSyncExternalStore(never, tell, () => false);
}
