'use client';

import { useCallback, useEffect, useState } from 'react';
import type { Receiver, Recipient } from '@/core/contact/recipient';

export type Possible = Partial<Record<Receiver, number>>;

interface Props {
  draftId: number;
  /** Those that came with the page. */
  first: readonly Recipient[];
  /** How many there are in all. */
  total: number;
  /** Of how many learners each sort of receiver there is somebody. */
  possible: Possible;
}

interface Fetched {
  recipients: readonly Recipient[];
  possible: Possible;
}

/**
 * To whom a message is written: the first at once, all of them fetched after that. Nothing is sent before all are there, since
 * each is checked.
 */
export function useRecipients({ draftId, first, total, possible }: Props) {
  const [fetched, setFetched] = useState<Fetched | null>(null);
  const [state, setState] = useState<'coming' | 'there' | 'failed'>(total > first.length ? 'coming' : 'there');
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const fetchAll = useCallback(async () => {
    setState('coming');
    try {
      const answer = await fetch(`/write/${draftId}/recipients`);
      if (!answer.ok) throw new Error(String(answer.status));
      setFetched((await answer.json()) as Fetched);
      setState('there');
    } catch {
      setState('failed');
    }
  }, [draftId]);
  const isMore = total > first.length;
  useEffect(() => {
    if (isMore) void fetchAll();
  }, [isMore, fetchAll]);
  const recipients = (fetched?.recipients ?? first).filter(({ key }) => !leftOut.has(key));
  return {
    recipients,
    /** How many there are, those included that have not come yet. */
    count: fetched ? recipients.length : total - leftOut.size,
    possible: fetched?.possible ?? possible,
    state,
    fetchAll,
    leaveOut: (key: string) => setLeftOut((known) => new Set([...known, key])),
  };
}
