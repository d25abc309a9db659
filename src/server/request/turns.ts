/** Turns at heavy work: one account's files keep nobody else waiting. */

/** Heavy requests of one account that are worked on at a time. */
const AT_ONCE = 2;
/** A file that nobody has fetched for so long is given up, in ms. */
const LONGEST = 10 * 60_000;

const KEY = Symbol.for('lee-shore.turns');
interface Turns {
  running: number;
  waiting: (() => void)[];
}
type Holder = { [KEY]?: Map<number, Turns> };

/**
 * Waits until an account has a turn at something heavy. What is returned ends the turn; called again it does nothing.
 *
 * @example
 * const end = await takeTurn(viewer.staffId);
 * stream.once('close', end);
 */
export async function takeTurn(staffId: number): Promise<() => void> {
  // Parts of the application that are bundled apart share the count.
  const all = ((globalThis as Holder)[KEY] ??= new Map());
  const turnsOfStaff: Turns = all.get(staffId) ?? { running: 0, waiting: [] };
  all.set(staffId, turnsOfStaff);
  if (turnsOfStaff.running >= AT_ONCE) await new Promise<void>((resolve) => turnsOfStaff.waiting.push(resolve));
  else turnsOfStaff.running += 1;
  let isOver = false;
  const end = () => {
    if (isOver) return;
    isOver = true;
    clearTimeout(timer);
    // The next one takes the turn over; the last one out leaves nothing behind.
    const next = turnsOfStaff.waiting.shift();
    if (next) return next();
    turnsOfStaff.running -= 1;
    if (turnsOfStaff.running === 0) all.delete(staffId);
  };
  const timer = setTimeout(end, LONGEST);
  timer.unref();
  return end;
}
