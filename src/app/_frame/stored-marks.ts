/**
 * Marks of rolls that wait on this device, one entry for each learner, so that two tabs keep theirs side by side; and marks
 * that a colleague gave otherwise meanwhile, until somebody settles them.
 */

/** A mark as it stands on this device. */
export interface OwnMark {
  mark: string | null;
  remark: string;
  /** The change it rests on. */
  seen: number;
}

/** What waits of one session, by the learner's id. */
export type Waiting = Record<string, OwnMark>;

/** What is kept: marks that wait, and conflicts. */
type Kind = 'mark' | 'conflict';

type Kept = Pick<Storage, 'getItem' | 'setItem' | 'removeItem' | 'key' | 'length'>;

const part = (text: string) => encodeURIComponent(text).replaceAll('.', '%2E');
const whole = (text: string) => decodeURIComponent(text.replaceAll('%2E', '.'));

/** Kept for one person and one session: nobody else's marks are sent under their name. */
function prefixOf(kind: Kind, staffId: number, sessionId: string): string {
  return `lee-shore.roll.${kind}.${staffId}.${part(sessionId)}.`;
}

function keysOf(storage: Kept, prefix: string): string[] {
  const keys = Array.from({ length: storage.length }, (_, index) => storage.key(index));
  return keys.filter((key): key is string => key !== null && key.startsWith(prefix));
}

/** What is kept of a session, by the learner's id; what cannot be read is nothing. */
export function readKept<T>(storage: Kept, kind: Kind, staffId: number, sessionId: string): Record<string, T> {
  const prefix = prefixOf(kind, staffId, sessionId);
  try {
    return Object.fromEntries(
      keysOf(storage, prefix).flatMap((key): [string, T][] => {
        const value: unknown = JSON.parse(storage.getItem(key) ?? 'null');
        return value !== null && typeof value === 'object' ? [[whole(key.slice(prefix.length)), value as T]] : [];
      }),
    );
  } catch {
    return {};
  }
}

/** Keeps one learner's, or lets go of it; false where the device has no room or does not allow it. */
export function keepOne(
  storage: Kept,
  kind: Kind,
  { staffId, sessionId, learnerId }: { staffId: number; sessionId: string; learnerId: string },
  value: object | null,
): boolean {
  const key = prefixOf(kind, staffId, sessionId) + part(learnerId);
  try {
    if (value === null) storage.removeItem(key);
    else storage.setItem(key, JSON.stringify(value));
    return true;
  } catch {
    return false;
  }
}

/** Sessions of which somebody's marks wait on this device. */
export function sessionsWaiting(storage: Kept, staffId: number): string[] {
  const prefix = `lee-shore.roll.mark.${staffId}.`;
  try {
    return [...new Set(keysOf(storage, prefix).map((key) => whole(key.slice(prefix.length).split('.')[0])))];
  } catch {
    return [];
  }
}
