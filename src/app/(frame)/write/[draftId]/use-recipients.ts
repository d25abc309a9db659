'use client';

import { useCallback, useEffect, useState } from 'react';
import type { Recipient } from '@/core/contact/recipient';

interface Props {
  draftId: number;
  /** Those that came with the page. */
  first: readonly Recipient[];
  /** How many there are in all. */
  total: number;
}

/**
 * To whom a message is written: the first at once, the others fetched after them. Nothing is sent before all are
 * there, since each is checked.
 */
export function useRecipients({ draftId, first, total }: Props) {
  const [rest, setRest] = useState<readonly Recipient[]>([]);
  const [state, setState] = useState<'coming' | 'there' | 'failed'>(total > first.length ? 'coming' : 'there');
  const [leftOut, setLeftOut] = useState<ReadonlySet<number>>(new Set());
  const fetchRest = useCallback(async () => {
    setState('coming');
    try {
      const answer = await fetch(`/write/${draftId}/recipients`);
      if (!answer.ok) throw new Error(String(answer.status));
      setRest(((await answer.json()) as { recipients: Recipient[] }).recipients);
      setState('there');
    } catch {
      setState('failed');
    }
  }, [draftId]);
  const isMore = total > first.length;
  useEffect(() => {
    if (isMore) void fetchRest();
  }, [isMore, fetchRest]);
  return {
    // Somebody may have been left out elsewhere meanwhile, so who is there twice is told by the id.
    recipients: [...new Map([...first, ...rest].map((one) => [one.id, one])).values()].filter(
      ({ id }) => !leftOut.has(id),
    ),
    /** How many there are, those included that have not come yet. */
    count: total - leftOut.size,
    state,
    fetchRest,
    leaveOut: (id: number) => setLeftOut((known) => new Set([...known, id])),
  };
}
