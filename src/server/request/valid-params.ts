/** What a link asks of a list, without what cannot be. */
import type { Viewer } from '@/data/scope';
import type { Runtime } from '../runtime';
import { InvalidInput, readInput, type FieldFault } from './input';
import { askedOf, type Asking, type Params } from './list';
import type { ListQuery } from './list-query';
import { PeriodQuery, periodOf, requireOrder } from './period';
import { openView } from './view';

/** @throws InvalidInput, NotFound */
async function check(runtime: Runtime, viewer: Viewer, list: Asking, params: Params): Promise<void> {
  const asked = askedOf(list, params);
  const query: ListQuery & { from?: unknown; to?: unknown } = readInput(list.query, asked, runtime.zone);
  const { from, to } = query;
  if (query instanceof PeriodQuery) {
    // Some periods are those of a session, or of an item: of the part that is asked for.
    await periodOf(runtime, await openView(runtime, viewer, asked, asked.as_of), query);
  } else if (typeof from === 'number' && typeof to === 'number') requireOrder(from, to);
}

/**
 * The parameters of a link but those that are wrong for the list, and what is wrong with each. A link that somebody has
 * kept, or typed, still shows what there is.
 *
 * @throws InvalidInput for what is wrong and does not stand in the link; NotFound for a part that is not there
 */
export async function validParams(
  runtime: Runtime,
  viewer: Viewer,
  list: Asking,
  params: Params,
): Promise<{ params: Params; faults: FieldFault[] }> {
  const faults: FieldFault[] = [];
  let sound = params;
  for (;;) {
    try {
      await check(runtime, viewer, list, sound);
      return { params: sound, faults };
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      const wrong = new Set(error.errors.map(({ field }) => field));
      const rest = Object.entries(sound).filter(([name]) => !wrong.has(name));
      if (rest.length === Object.keys(sound).length) throw error;
      faults.push(...error.errors);
      sound = Object.fromEntries(rest);
    }
  }
}
