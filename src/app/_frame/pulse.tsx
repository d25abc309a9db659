'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef } from 'react';

const EVERY = 4000;

/**
 * Has the page shown anew when a colleague has been in touch with somebody, so that two people
 * working on the same learner see each other. Rests while the tab is hidden.
 */
export function Pulse({ now }: { now: string }) {
  const router = useRouter();
  const known = useRef(now);
  useEffect(() => {
    known.current = now;
  }, [now]);
  useEffect(() => {
    const timer = setInterval(async () => {
      if (document.hidden) return;
      // Without an answer (offline, signed out) the page stays as it is; the next try may have one.
      const answer = await fetch('/pulse').catch(() => null);
      if (!answer?.ok) return;
      const { pulse } = await answer.json();
      if (pulse === known.current) return;
      known.current = pulse;
      router.refresh();
    }, EVERY);
    return () => clearInterval(timer);
  }, [router]);
  return null;
}
