'use client';

import { useRouter } from 'next/navigation';
import { useEffect } from 'react';

/** Asks the server for the page anew while something on it moves; rests while the tab is hidden. */
export function Refresher({ every }: { every: number | null }) {
  const router = useRouter();
  useEffect(() => {
    if (every === null) return;
    const timer = setInterval(() => {
      if (!document.hidden) router.refresh();
    }, every);
    return () => clearInterval(timer);
  }, [every, router]);
  return null;
}
