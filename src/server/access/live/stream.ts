/** One browser tab's stream of what happens now. */
import type { ViewScope } from '@/data/scope';
import type { Runtime } from '@/server/runtime';
import { viewerBySession } from '@/server/staff/sessions';
import { liveHub, streamMessage, viewerKey, type LiveHub } from './hub';
import { liveCursors } from './cursor';

/** A stream ends after this long, and the browser opens it anew. */
const LONGEST = 5 * 60_000;
/** How often it is asked who watches, in ms: what ends, ends within five seconds. */
const ASK = 3000;
/** A line now and then, so that nobody between takes the silence for an end. */
const HEARTBEAT = 20_000;

const encoder = new TextEncoder();

export interface StreamOptions {
  /** Does whoever opened it still see the same? Asked every few seconds. */
  isStill?: () => Promise<boolean>;
  /** How often, in ms. */
  ask?: number;
  longest?: number;
  /** A session of the timetable that is watched beside the log, and how it stood when the page was made. */
  session?: { id: number; version: string | null };
  /** False for the session alone. */
  withLog?: boolean;
}

/**
 * A stream of events in view as server-sent events. What came after `after` comes first, so that
 * a lost connection loses nothing. It ends once whoever opened it is signed out, sees another part or
 * has names hidden; the browser then opens it anew, if it may.
 */
export function liveStream(
  hub: LiveHub,
  scope: ViewScope,
  after: number | null,
  { isStill = async () => true, ask = ASK, longest = LONGEST, session, withLog = true }: StreamOptions = {},
): ReadableStream<Uint8Array> {
  let end: () => void = () => undefined;
  return new ReadableStream({
    async start(controller) {
      let isOver = false;
      const send = (chunk: Uint8Array) => {
        if (isOver) return;
        // A reader that takes nothing is given up: it asks again with its last id.
        if ((controller.desiredSize ?? 0) < -MOST_WAITING) return end();
        controller.enqueue(chunk);
      };
      const timers = [
        setInterval(() => send(encoder.encode(': still here\n\n')), HEARTBEAT),
        setTimeout(() => end(), longest),
        setInterval(() => {
          isStill().then(
            (still) => {
              if (still) return;
              // What is on the screen is no longer theirs to see either.
              send(streamMessage('anew', {}));
              end();
            },
            () => end(),
          );
        }, ask),
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
      const stops = await Promise.all([
        ...(withLog ? [hub.watch(scope, send)] : []),
        ...(session === undefined ? [] : [hub.watchSession(session.id, send, session.version)]),
      ]);
      const stop = () => stops.forEach((stop) => stop());
      if (isOver) return stop();
      unwatch = stop;
      if (after === null || !withLog) return;
      const missed = await hub.missed(scope, after);
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

/**
 * The answer to a tab that opens its stream.
 * @param token of the sign-in that asks
 */
export async function liveResponse(
  runtime: Runtime,
  scope: ViewScope,
  after: string | null,
  token: string,
  { session, withLog }: Pick<StreamOptions, 'session' | 'withLog'> = {},
): Promise<Response> {
  const hub = liveHub(runtime.db, (error) => runtime.log.error({ err: error }, 'the live hub could not look'));
  const place = after === null ? null : (await liveCursors(runtime.db)).open(after);
  const key = viewerKey(scope.viewer);
  const isStill = async () => {
    const viewer = await viewerBySession(runtime, token, true);
    return viewer !== null && viewerKey(viewer) === key;
  };
  return new Response(liveStream(hub, scope, place, { isStill, session, withLog }), {
    headers: {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'private, no-store, no-transform',
      'x-accel-buffering': 'no',
    },
  });
}
