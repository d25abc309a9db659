'use client';

import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import { connection } from '@/ui/connection';

/** Asks the server for the page anew while something on it moves; rests while the tab is hidden or has no connection. */
export function Refresher({ every }: { every: number | null }) {
  const router = useRouter();
  useEffect(() => {
    if (every === null) return;
    const timer = setInterval(() => {
      if (!document.hidden && !connection.isLost()) router.refresh();
    }, every);
    return () => clearInterval(timer);
  }, [every, router]);
  return null;
}
