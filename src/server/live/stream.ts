/** One browser tab's stream of what happens now. */
import type { Looking } from '@/data/scope';
import type { Runtime } from '../runtime';
import { liveHub, streamMessage, type LiveHub } from './hub';

/** A stream ends after this long, and the browser opens it anew: so a session that ended is noticed. */
const LONGEST = 5 * 60_000;
/** A line now and then, so that nobody between takes the silence for an end. */
const HEARTBEAT = 20_000;

const encoder = new TextEncoder();

/**
 * A stream of events in view as server-sent events. What came after `after` comes first, so that
 * a lost connection loses nothing.
 */
export function liveStream(
  hub: LiveHub,
  looking: Looking,
  after: number | null,
  longest = LONGEST,
): ReadableStream<Uint8Array> {
  let end: () => void = () => undefined;
  return new ReadableStream({
    async start(controller) {
      let isOver = false;
      const send = (piece: Uint8Array) => {
        if (isOver) return;
        // A reader that takes nothing is given up: it asks again with its last id.
        if ((controller.desiredSize ?? 0) < -MOST_WAITING) return end();
        controller.enqueue(piece);
      };
      const timers = [
        setInterval(() => send(encoder.encode(': still here\n\n')), HEARTBEAT),
        setTimeout(() => end(), longest),
      ];
      let unwatch: () => void = () => undefined;
      end = () => {
        if (isOver) return;
        isOver = true;
        unwatch();
        timers.forEach(clearInterval);
        try {
          controller.close();
        } catch {
          // The reader has gone already.
        }
      };
      send(encoder.encode('retry: 2000\n\n'));
      // First the watch, then what was missed: an event may come twice, and is known by its id.
      const stop = await hub.watch(looking, send);
      if (isOver) return stop();
      unwatch = stop;
      if (after === null) return;
      const missed = await hub.missed(looking, after);
      if (missed === null) send(streamMessage('anew', {}));
      else if (missed.events.length > 0) send(streamMessage('events', missed.events, missed.last));
    },
    cancel() {
      end();
    },
  });
}

/** Pieces that may wait for a slow reader. */
const MOST_WAITING = 500;

/** The answer to a tab that opens its stream. */
export function liveResponse(runtime: Runtime, looking: Looking, after: number | null): Response {
  const hub = liveHub(runtime.db, (error) => runtime.log.error({ err: error }, 'the live hub could not look'));
  return new Response(liveStream(hub, looking, after), {
    headers: {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
