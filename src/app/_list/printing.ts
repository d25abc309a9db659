'use client';

import { useEffect, useRef, useState } from 'react';
import { flushSync } from 'react-dom';

/** What must be fetched before the page is whole on paper. */
const preparations = new Set<{ current: () => Promise<void> }>();

/** Has the print button wait for this: a list that has only its first rows, say. */
export function usePrintPreparation(prepare: () => Promise<void>): void {
  const latest = useRef(prepare);
  latest.current = prepare;
  useEffect(() => {
    preparations.add(latest);
    return () => void preparations.delete(latest);
  }, []);
}

/** Prints the page when all of it is there. The browser's own command prints what has been loaded so far. */
export async function printPage(): Promise<void> {
  await Promise.all([...preparations].map(({ current }) => current()));
  window.print();
}

/** Whether the page is being printed: what is drawn only near what is in sight is then drawn whole. */
export function useIsPrinting(): boolean {
  const [isPrinting, setPrinting] = useState(false);
  useEffect(() => {
    // The paper is made as soon as the event has been told: the page has to be ready by then.
    const before = () => flushSync(() => setPrinting(true));
    const after = () => setPrinting(false);
    window.addEventListener('beforeprint', before);
    window.addEventListener('afterprint', after);
    return () => {
      window.removeEventListener('beforeprint', before);
      window.removeEventListener('afterprint', after);
    };
  }, []);
  return isPrinting;
}
