'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { arrivals, withNew, type LiveEvent } from '@/core/access/now';
import { linkTo } from '../../../_list/list-link';

export type LiveState = 'opening' | 'live' | 'paused' | 'lost';

/** How often the screen ages by itself, in ms. */
const TICK = 15_000;
/** After an answer that is no stream the browser gives up: then it is tried again after this long, in ms. */
const TRY_AGAIN = 4000;

const NOBODY: ReadonlyMap<string, number> = new Map();

interface Start {
  events: LiveEvent[];
  last: string;
  part: string | null;
  /** The server's now. */
  now: number;
  /** From when arrivals count. */
  since: number;
  /** A session that is on: when people come to it, the page is shown anew. */
  session: string | null;
  /** How that session stood when the page was made. */
  version: string | null;
}

/**
 * The events of the last hour, kept up by one stream. It rests while the tab is hidden, and goes
 * on from the last event it had, as it does after a lost connection.
 */
export function useLive({ events: first, last, part, now: serverNow, since, session, version }: Start) {
  const router = useRouter();
  const [state, setState] = useState<LiveState>('opening');
  const [clock, setClock] = useState(serverNow);
  const [fresh, setFresh] = useState<LiveEvent[]>([]);
  // Kept beside the events: whoever came stays come, when the hour has gone over it.
  const [arrived, setArrived] = useState<ReadonlyMap<string, number>>(new Map());
  const seen = useRef(last);
  const stood = useRef(version);
  useEffect(() => {
    stood.current = version;
  }, [version]);
  useEffect(() => {
    const began = performance.now();
    setClock(serverNow);
    const timer = setInterval(() => setClock(serverNow + performance.now() - began), TICK);
    return () => clearInterval(timer);
  }, [serverNow]);
  useEffect(() => {
    seen.current = last;
  }, [last]);
  useEffect(() => {
    let source: EventSource | null = null;
    let retry: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      const opened = new EventSource(
        linkTo('/courses/now/stream', { in: part, after: seen.current, session, version: session && stood.current }),
      );
      source = opened;
      opened.onopen = () => setState('live');
      opened.onerror = () => {
        setState('lost');
        if (opened.readyState !== EventSource.CLOSED) return;
        retry = setTimeout(() => {
          // Whoever is signed out by now is asked to sign in.
          router.refresh();
          open();
        }, TRY_AGAIN);
      };
      opened.addEventListener('events', (message: MessageEvent<string>) => {
        seen.current = message.lastEventId || seen.current;
        const events: LiveEvent[] = JSON.parse(message.data);
        setArrived((known) => arrivals(known, events, since));
        setFresh((known) => withNew(known, events, Math.max(...events.map(({ at }) => at), known[0]?.at ?? 0)));
      });
      opened.addEventListener('session', () => router.refresh());
      opened.addEventListener('anew', (message: MessageEvent<string>) => {
        seen.current = message.lastEventId || seen.current;
        // What was shown may no longer be ours to see, or not by name.
        setFresh([]);
        setArrived(new Map());
        router.refresh();
      });
    };
    const close = () => {
      clearTimeout(retry);
      source?.close();
      source = null;
    };
    const onVisibility = () => {
      close();
      if (document.hidden) setState('paused');
      else {
        setState('opening');
        open();
      }
    };
    if (!document.hidden) open();
    document.addEventListener('visibilitychange', onVisibility);
    return () => {
      document.removeEventListener('visibilitychange', onVisibility);
      close();
    };
  }, [part, router, since, session]);
  const newest = fresh[0]?.at ?? 0;
  // An event may be ahead of the last tick: then it is the later now.
  const now = Math.max(clock, Math.min(newest, clock + TICK));
  // Whoever is in a session is told by the session, not by the log.
  return { events: withNew(first, fresh, now), arrived: session === null ? arrived : NOBODY, now, state };
}
