'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { RollConflict } from '@/server/sessions/roll';
import { sendMarks, type SentMark } from './send-marks';

export interface OnRoll {
  learnerId: string;
  name: string;
  /** Of another group, who came nevertheless. */
  group: string | null;
  mark: string | null;
  remark: string;
  change: number;
  by: string | null;
  at: number | null;
  /** What speaks for a mark. */
  hint: string;
}

/** A mark as it stands on this device. */
export interface OwnMark {
  mark: string | null;
  remark: string;
  /** The change it rests on. */
  seen: number;
}

/** What waits on this device, by the learner's id. */
type Waiting = Record<string, OwnMark>;

/** How often what waits is tried again, in ms. */
const AGAIN = 8000;

/** Kept for one person and one session: nobody else's marks are sent under their name. */
function keyOf(sessionId: string, staffId: number): string {
  return `lee-shore.roll.${staffId}.${sessionId}`;
}

function readKept(key: string): Waiting {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key) ?? '{}');
    return Object(kept) as Waiting;
  } catch {
    return {};
  }
}

function keep(key: string, waiting: Waiting): boolean {
  try {
    if (Object.keys(waiting).length === 0) localStorage.removeItem(key);
    else localStorage.setItem(key, JSON.stringify(waiting));
    return true;
  } catch {
    // No room, or not allowed: then they last as long as the page.
    return false;
  }
}

export type RollState = 'saved' | 'saving' | 'waiting' | 'refused';

/**
 * A roll as it is taken: every mark is kept on the device at once and sent; without a connection it waits, and goes when
 * the connection returns, also after the page was closed. What a colleague has marked meanwhile is not overwritten:
 * both come back to be chosen from.
 */
export function useRoll(sessionId: string, staffId: number, people: readonly OnRoll[]) {
  const key = keyOf(sessionId, staffId);
  const [waiting, setWaiting] = useState<Waiting>({});
  const [stored, setStored] = useState<Record<string, OwnMark>>(() =>
    Object.fromEntries(
      people.map(({ learnerId, mark, remark, change }) => [learnerId, { mark, remark, seen: change }]),
    ),
  );
  const [conflicts, setConflicts] = useState<(RollConflict & { own: OwnMark })[]>([]);
  const [state, setState] = useState<RollState>('saved');
  const [trouble, setTrouble] = useState<string | null>(null);
  const latest = useRef(waiting);
  const isSending = useRef(false);
  const past = useRef<Waiting[]>([]);

  const put = useCallback(
    (next: Waiting) => {
      latest.current = next;
      setWaiting(next);
      keep(key, next);
    },
    [key],
  );

  const flush = useCallback(
    async (replace = false) => {
      if (isSending.current) return;
      const sent = latest.current;
      const ids = Object.keys(sent);
      if (ids.length === 0) return;
      isSending.current = true;
      setState('saving');
      const marks = ids.map((learner_id): SentMark => {
        const { mark, remark, seen } = sent[learner_id];
        return { learner_id, ...(mark !== null && { mark }), remark, seen };
      });
      const answer = await sendMarks(sessionId, marks, replace);
      isSending.current = false;
      if (!answer.ok) {
        setState(answer.later ? 'waiting' : 'refused');
        setTrouble(answer.says);
        return;
      }
      const { changes, conflicts: found } = answer.value;
      const refused = new Map(found.map((one) => [one.learner_id, one]));
      setConflicts((known) => [
        ...known.filter(({ learner_id }) => !ids.includes(learner_id)),
        ...found.map((one) => ({ ...one, own: sent[one.learner_id] })),
      ]);
      setStored((known) => {
        const next = { ...known };
        for (const id of ids) {
          const theirs = refused.get(id);
          next[id] = theirs
            ? { mark: theirs.mark, remark: theirs.remark, seen: theirs.change }
            : { ...sent[id], seen: changes[id] ?? sent[id].seen };
        }
        return next;
      });
      // What was marked again while it was on its way still waits, now resting on what was just stored.
      const rest = Object.entries(latest.current).flatMap(([id, own]): [string, OwnMark][] => {
        if (own === sent[id]) return [];
        return [[id, { ...own, seen: changes[id] ?? own.seen }]];
      });
      put(Object.fromEntries(rest));
      setTrouble(null);
      setState(rest.length > 0 ? 'saving' : 'saved');
      if (rest.length > 0) void flush();
    },
    [sessionId, put],
  );

  // What waited when the page was last closed goes first.
  useEffect(() => {
    const kept = readKept(key);
    if (Object.keys(kept).length > 0) {
      put(kept);
      setState('waiting');
      void flush();
    }
    const again = () => void flush();
    window.addEventListener('online', again);
    const timer = setInterval(again, AGAIN);
    return () => {
      window.removeEventListener('online', again);
      clearInterval(timer);
    };
  }, [key, put, flush]);

  const of = (learnerId: string): OwnMark =>
    waiting[learnerId] ?? stored[learnerId] ?? { mark: null, remark: '', seen: 0 };

  const give = (ids: readonly string[], change: Partial<Pick<OwnMark, 'mark' | 'remark'>>) => {
    past.current = [...past.current.slice(-49), Object.fromEntries(ids.map((id) => [id, of(id)]))];
    put({ ...latest.current, ...Object.fromEntries(ids.map((id) => [id, { ...of(id), ...change }])) });
    void flush();
  };

  /** Puts back what the last press changed. */
  const undo = () => {
    const before = past.current.pop();
    if (!before) return;
    const back = Object.entries(before).map(([id, { mark, remark }]) => [id, { ...of(id), mark, remark }] as const);
    put({ ...latest.current, ...Object.fromEntries(back) });
    void flush();
  };

  /** Chooses one's own mark over a colleague's, or leaves theirs. */
  const settle = (conflict: RollConflict & { own: OwnMark }, mine: boolean) => {
    setConflicts((known) => known.filter((one) => one !== conflict));
    if (!mine) return;
    put({ ...latest.current, [conflict.learner_id]: { ...conflict.own, seen: conflict.change } });
    void flush();
  };

  return { of, give, undo, conflicts, settle, state, trouble, waiting: Object.keys(waiting).length, flush };
}
