'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { linkTo } from '../../../_list/list-link';

/** How often the screen ages by itself, in ms. */
const TICK = 5000;

interface Stands {
  isOn: boolean;
  /** How the session stood when the page was made. */
  version: string;
  /** The server's now. */
  now: number;
}

/**
 * Keeps a session's page up to date while it is on, by the one live stream: what changes has the page shown anew, and
 * the clock goes on by itself. Rests while the tab is hidden.
 *
 * @returns the instant that it is now
 */
export function useSessionStream(sessionId: string, { isOn, version, now: serverNow }: Stands): number {
  const router = useRouter();
  const [now, setNow] = useState(serverNow);
  const known = useRef(version);
  useEffect(() => {
    known.current = version;
  }, [version]);
  useEffect(() => {
    setNow(serverNow);
    if (!isOn) return;
    const began = performance.now();
    const timer = setInterval(() => setNow(serverNow + performance.now() - began), TICK);
    return () => clearInterval(timer);
  }, [isOn, serverNow]);
  useEffect(() => {
    if (!isOn) return;
    let source: EventSource | null = null;
    const open = () => {
      source = new EventSource(
        linkTo('/courses/now/stream', { session: sessionId, version: known.current, log: 'no' }),
      );
      source.addEventListener('session', () => router.refresh());
      source.addEventListener('anew', () => router.refresh());
    };
    const onVisibility = () => {
      source?.close();
      source = null;
      if (document.hidden) return;
      router.refresh();
      open();
    };
    if (!document.hidden) open();
    document.addEventListener('visibilitychange', onVisibility);
    return () => {
      document.removeEventListener('visibilitychange', onVisibility);
      source?.close();
    };
  }, [sessionId, isOn, router]);
  return now;
}
