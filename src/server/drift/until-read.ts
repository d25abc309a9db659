/** Answers that show drift wait until it has been read: what is not there yet looks like nobody in need. */
import { setTimeout as pause } from 'node:timers/promises';
import { dayOf } from '@/core/time/zone';
import type { Viewer } from '@/data/scope';
import { coursesBeingRead, isBeingRead, type View } from '@/data/view';
import { InvalidInput } from '../request/input';
import { listAnswer, type List } from '../request/list';
import { NotReadYet } from '../request/trouble';
import { openDriftView } from '../request/view';
import { type SegmentNames } from '../request/segment-names';
import type { Runtime } from '../runtime';
import { wakeWorker } from '../worker-host';

/** How long an answer waits at most, and how often it looks, in ms. */
const AT_MOST = 20_000;
const LOOK_AGAIN = 150;

/** Has the worker read the past of what is looked at before any other. */
export async function readFirst({ db, clock, zone }: Runtime, view: View): Promise<void> {
  wakeWorker({ readFirst: await coursesBeingRead(db, view, dayOf(clock.now(), zone)) });
}

interface Waits {
  /** In ms. */
  atMost?: number;
}

/**
 * Waits until what is asked for has been read: of now, until today has been begun; of a past day, until all in view has.
 * Today that is late is shown as it was read last, as the screens do.
 *
 * @throws NotReadYet of a past day that takes longer; NotFound for a part that is not there
 */
export async function untilRead(
  runtime: Runtime,
  viewer: Viewer,
  { course, group, organisation, caseload, as_of }: SegmentNames & { as_of?: string },
  { atMost = AT_MOST }: Waits = {},
): Promise<void> {
  const names = { course, group, organisation, caseload };
  const today = dayOf(runtime.clock.now(), runtime.zone);
  const isWaiting = async () => {
    const view = await openDriftView(runtime, viewer, names, as_of);
    if (view.asOf === null) return view.readingDay < today;
    if (!(await isBeingRead(runtime.db, view, today))) return false;
    await readFirst(runtime, view);
    return true;
  };
  const began = performance.now();
  while (await isWaiting()) {
    if (performance.now() - began > atMost) {
      if (as_of) throw new NotReadYet();
      return;
    }
    await pause(LOOK_AGAIN);
  }
}

/** The API's answer of a list; of one that shows drift, once what it shows is read. @throws InvalidInput, NotFound, NotReadYet */
export async function readAnswer<Row>(
  list: List<Row>,
  asker: { runtime: Runtime; viewer: Viewer },
  values: Record<string, string>,
): Promise<Response> {
  try {
    if (list.showsDrift) await untilRead(asker.runtime, asker.viewer, values);
  } catch (error) {
    // The list names every field that is wrong.
    if (!(error instanceof InvalidInput)) throw error;
  }
  return listAnswer(list, asker, values);
}
