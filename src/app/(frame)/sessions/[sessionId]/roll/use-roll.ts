'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { RollConflict } from '@/server/sessions/roll';
import { keepOne, readKept, type OwnMark, type Waiting } from '../../../../_frame/stored-marks';
import { sendMarks, type SentMark } from '../../../../_frame/send-marks';

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

/** How often what waits is tried again, in ms. */
const AGAIN = 8000;

export type RollState = 'saved' | 'saving' | 'waiting' | 'refused';

/** A mark that somebody gave otherwise meanwhile, with one's own. */
export type Conflict = RollConflict & { own: OwnMark };

/**
 * A roll as it is taken: every mark is kept on the device at once and sent; without a connection it waits, and goes when
 * the connection returns, also after the page was closed. What a colleague has marked meanwhile is not overwritten:
 * both come back to be chosen from.
 */
export function useRoll(sessionId: string, staffId: number, people: readonly OnRoll[]) {
  const [waiting, setWaiting] = useState<Waiting>({});
  const [stored, setStored] = useState<Record<string, OwnMark>>(() =>
    Object.fromEntries(
      people.map(({ learnerId, mark, remark, change }) => [learnerId, { mark, remark, seen: change }]),
    ),
  );
  const [conflicts, setConflicts] = useState<Conflict[]>([]);
  const [state, setState] = useState<RollState>('saved');
  const [trouble, setTrouble] = useState<string | null>(null);
  const latest = useRef(waiting);
  const isSending = useRef(false);
  const past = useRef<Waiting[]>([]);

  const put = useCallback(
    (next: Waiting) => {
      const before = latest.current;
      latest.current = next;
      setWaiting(next);
      // Only what this tab has changed: another keeps its own beside it.
      for (const learnerId of new Set([...Object.keys(before), ...Object.keys(next)])) {
        if (before[learnerId] === next[learnerId]) continue;
        keepOne(localStorage, 'mark', { staffId, sessionId, learnerId }, next[learnerId] ?? null);
      }
    },
    [staffId, sessionId],
  );
  /** Shows conflicts, and keeps them on the device until they are settled. */
  const putConflicts = useCallback(
    (change: (known: Conflict[]) => Conflict[]) =>
      setConflicts((known) => {
        const next = change(known);
        for (const { learner_id: learnerId } of known)
          if (!next.some((one) => one.learner_id === learnerId))
            keepOne(localStorage, 'conflict', { staffId, sessionId, learnerId }, null);
        for (const one of next)
          keepOne(localStorage, 'conflict', { staffId, sessionId, learnerId: one.learner_id }, one);
        return next;
      }),
    [staffId, sessionId],
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
      const { changes, conflicts: found, refused: gone } = answer.value;
      const refused = new Map(found.map((one) => [one.learner_id, one]));
      putConflicts((known) => [
        ...known.filter(({ learner_id }) => !ids.includes(learner_id)),
        ...found.map((one) => ({ ...one, own: sent[one.learner_id] })),
      ]);
      setStored((known) => {
        const next = { ...known };
        for (const id of ids) {
          if (gone.some(({ learner_id }) => learner_id === id)) continue;
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
      // What could not be taken is said by name; the others were.
      setTrouble(gone.length > 0 ? gone.map(({ says }) => says).join(' ') : null);
      setState(rest.length > 0 ? 'saving' : gone.length > 0 ? 'refused' : 'saved');
      if (rest.length > 0) void flush();
    },
    [sessionId, put, putConflicts],
  );

  // What waited when the page was last closed goes first.
  useEffect(() => {
    const kept = readKept<OwnMark>(localStorage, 'mark', staffId, sessionId);
    const open = Object.values(readKept<Conflict>(localStorage, 'conflict', staffId, sessionId));
    if (open.length > 0) setConflicts(open);
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
  }, [staffId, sessionId, put, flush]);

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
  const settle = (conflict: Conflict, mine: boolean) => {
    putConflicts((known) => known.filter((one) => one.learner_id !== conflict.learner_id));
    if (!mine) return;
    put({ ...latest.current, [conflict.learner_id]: { ...conflict.own, seen: conflict.change } });
    void flush();
  };

  return { of, give, undo, conflicts, settle, state, trouble, waiting: Object.keys(waiting).length, flush };
}
