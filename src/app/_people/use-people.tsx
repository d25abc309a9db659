'use client';

import { notifications } from '@mantine/notifications';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState, type ReactNode } from 'react';
import { afterLoad } from '@/ui/after-load';
import { useLetters } from '../_frame/letters';
import { linkTo } from '../_list/list-link';
import { UNDO_TIME, offerUndo } from '../_frame/offer-undo';
import type { Result } from '@/server/request/action';
import { reportOn } from '../(frame)/reports/actions';
import { startWriting } from '../(frame)/write/actions';
import { bringBack, removeNote, takeBackFollowUps, takeBackCall } from './actions';
import type { Called } from './call-dialog';
import { LEARNER_ACTIONS, type ActionName, type LearnerAction } from './learner-actions';
import { usePending } from '../_frame/use-pending';
import { useListKeys } from './use-list-keys';

// Not in a list's first load, but fetched before anybody asks: a key that follows the letter must find the dialog.
const calls = () => import('./call-dialog').then((module) => module.CallDialog);
const notes = () => import('./note-dialog').then((module) => module.NoteDialog);
const followUps = () => import('./follow-up-dialog').then((module) => module.FollowUpDialog);
const setAsides = () => import('./set-aside-dialog').then((module) => module.SetAsideDialog);
const caseloads = () => import('./caseload-dialog').then((module) => module.CaseloadDialog);
const CallDialog = afterLoad(calls);
const NoteDialog = dynamic(notes, { ssr: false });
const FollowUpDialog = dynamic(followUps, { ssr: false });
const SetAsideDialog = dynamic(setAsides, { ssr: false });
const CaseloadDialog = dynamic(caseloads, { ssr: false });

function fetchDialogs(): void {
  // Without a connection they are asked for again when one is opened.
  void Promise.all([calls(), notes(), followUps(), setAsides(), caseloads()]).catch(() => undefined);
}

/** Somebody of a list. */
export interface Listed extends Called {
  learnerId: string;
  /** What tells rows apart, where one person may stand on several; the person's own id otherwise. */
  row?: number;
}

interface Options<T extends Listed> {
  people: readonly T[];
  /** Day number of today. */
  today: number;
  /** This list's address, to come back to. */
  here: string;
  /** Whether the cursor's person stands in the address, for a link to a colleague. */
  inAddress?: boolean;
  /** One person's own page: no list to go through. */
  single?: boolean;
  /** What a message to people of this list begins with. */
  begin?: { subject: string; body: string };
  /** Draws a row that is too far away to be drawn, where not all are. */
  onFar?: (index: number) => void;
  /** What the letter for following up does on this list, where it is not to promise something. */
  onFollowUp?: (person: T) => void;
}

function rowOf(one: Listed | undefined): number {
  return one?.row ?? one?.id ?? 0;
}

/** Whom a dialog is about. Closed, it keeps them, and what was typed with them, for when it is opened again. */
function useDialog<T>() {
  const [{ about, opened }, set] = useState<{ about: T | null; opened: boolean }>({ about: null, opened: false });
  return {
    about,
    opened,
    open: (whom: T) => set({ about: whom, opened: true }),
    close: () => set((known) => ({ ...known, opened: false })),
  };
}

function idsOf(people: readonly Listed[]): string {
  return people.map(({ id }) => id).join(' ');
}

function withPerson(learnerId: string) {
  const url = new URL(window.location.href);
  url.searchParams.set('person', learnerId);
  window.history.replaceState(null, '', url);
}

/**
 * What every list of people has: a cursor that keys move, a selection, and the actions on them
 * with their dialogs and their undo.
 */
export function usePeople<T extends Listed>(options: Options<T>) {
  const { people, today, here, inAddress = false, single = false, begin, onFar, onFollowUp } = options;
  const [current, setCurrent] = useState({ row: rowOf(people[0]), index: 0 });
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set());
  const calling = useDialog<Called>();
  const noting = useDialog<Called>();
  const aside = useDialog<readonly Listed[]>();
  const promising = useDialog<readonly Listed[]>();
  const grouping = useDialog<readonly Listed[]>();
  const [pending, start] = usePending();
  /** The undo that `u` does, while it is offered. */
  const undoable = useRef<{ undo: () => void; notice: string } | null>(null);
  const rows = useRef<(HTMLElement | null)[]>([]);
  /** The row that is to be drawn and focused. */
  const coming = useRef<number | null>(null);
  const router = useRouter();
  // The cursor stays with its person while the list is put in another order around it, by what one
  // does or by what a colleague does; when they leave the list, it stays in its place.
  const found = people.findIndex((person) => rowOf(person) === current.row);
  const cursor = found >= 0 ? found : Math.max(0, Math.min(current.index, people.length - 1));
  const person: T | undefined = people[cursor];
  const row = rowOf(person);
  useEffect(() => setCurrent({ row, index: cursor }), [row, cursor]);
  /** Whom the cursor goes to when they are on the list again. */
  const [awaited, setAwaited] = useState<number | null>(null);
  useEffect(() => {
    const index = people.findIndex((person) => rowOf(person) === awaited);
    if (index < 0) return;
    setCurrent({ row: rowOf(people[index]), index });
    setAwaited(null);
  }, [people, awaited]);

  // The person in the link, when the page has opened.
  useEffect(() => {
    if (!inAddress) return;
    const wanted = new URLSearchParams(window.location.search).get('person');
    const index = people.findIndex((person) => person.learnerId === wanted);
    if (index > 0) setCurrent({ row: rowOf(people[index]), index });
    // Only once: later the cursor is where one moves it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  const go = useCallback(
    (index: number) => {
      if (index < 0 || index >= people.length) return;
      setCurrent({ row: rowOf(people[index]), index });
      if (inAddress) withPerson(people[index].learnerId);
      const element = rows.current[index];
      if (element) element.scrollIntoView({ block: 'nearest' });
      else {
        // It is not drawn yet: it takes the focus when it is.
        coming.current = index;
        onFar?.(index);
      }
    },
    [people, inAddress, onFar],
  );
  const toggle = (row: number) => {
    const next = new Set(selected);
    if (!next.delete(row)) next.add(row);
    setSelected(next);
  };
  const asked = new URLSearchParams(here.split('?')[1]);
  const asOf = asked.get('as_of');
  const pageOf = (one: Listed) => linkTo(`/learners/${encodeURIComponent(one.learnerId)}`, { from: here, as_of: asOf });
  const write = (ids: number[]) =>
    start(async () => {
      const refused = await startWriting(ids, here, begin);
      if (refused) notifications.show({ title: 'No message was begun', message: refused, color: 'red' });
    });
  const report = (ids: number[]) =>
    start(async () => {
      const result = await reportOn(ids);
      if (result.ok) router.push(result.value);
      else notifications.show({ title: 'No report was begun', message: result.says, color: 'red' });
    });
  const done = (says: string, undo: () => Promise<Result>, undone: string) => {
    const run = () => {
      undoable.current = null;
      start(async () => {
        const result = await undo();
        notifications.show({
          title: result.ok ? undone : 'That could not be undone',
          message: result.ok ? '' : result.says,
        });
      });
    };
    const notice = offerUndo(says, run);
    const mine = { undo: run, notice };
    undoable.current = mine;
    setTimeout(() => {
      if (undoable.current === mine) undoable.current = null;
    }, UNDO_TIME);
  };
  /** An undo that leads the cursor back to whom it was about, when they are on the list again. */
  const back =
    ([first]: readonly number[], undo: () => Promise<Result>) =>
    async () => {
      const result = await undo();
      if (result.ok) setAwaited(first);
      return result;
    };
  const undoLast = () => {
    if (!undoable.current) return;
    notifications.hide(undoable.current.notice);
    undoable.current.undo();
  };
  /** Whom an action is about: the selected where it may be several, else the one under the cursor. */
  const targets = ({ many }: LearnerAction): Listed[] => {
    if (!person) return [];
    if (!many || selected.size === 0) return [person];
    const chosen = [...selected].map(
      (row) => people.find((person) => rowOf(person) === row) ?? { id: row, learnerId: '', name: '' },
    );
    return [...new Map(chosen.map((one) => [one.id, one])).values()];
  };
  const act = (name: ActionName, whom: readonly Listed[]) => {
    if (whom.length === 0) return;
    const does: Record<ActionName, () => void> = {
      write: () => write(whom.map(({ id }) => id)),
      call: () => calling.open(whom[0]),
      note: () => noting.open(whom[0]),
      setAside: () => aside.open(whom),
      followUp: () => promising.open(whom),
      caseload: () => grouping.open(whom),
      report: () => report(whom.map(({ id }) => id)),
    };
    does[name]();
  };
  useEffect(fetchDialogs, []);
  const isAsking = [calling, noting, aside, promising, grouping].some(({ opened }) => opened);
  const wasAsking = useRef(false);
  // A dialog that closes leaves one in the row that it was about, so that the next arrow goes on from there.
  useEffect(() => {
    const held = document.activeElement;
    const isLost = held === null || held === document.body;
    if (wasAsking.current && !isAsking && !single && isLost) rows.current[cursor]?.focus({ preventScroll: true });
    wasAsking.current = isAsking;
  }, [isAsking, single, cursor]);
  useLetters([
    ...LEARNER_ACTIONS.map((action): [string, () => void] => [
      action.key,
      () =>
        action.name === 'followUp' && onFollowUp && person ? onFollowUp(person) : act(action.name, targets(action)),
    ]),
    ['u', undoLast],
  ]);
  useListKeys({
    rows,
    cursor,
    count: single ? 0 : people.length,
    onGo: go,
    onOpen: () => person && router.push(pageOf(person)),
    onSelect: () => person && toggle(rowOf(person)),
  });

  // There before it is opened, closed: its digits are pressed in one breath with its letter.
  const called = calling.about ?? person;
  const dialogs: ReactNode = (
    <>
      {called && (
        <CallDialog
          key={called.id}
          person={called}
          opened={calling.opened}
          today={today}
          onClose={calling.close}
          onDone={(logged, says) => {
            calling.close();
            done(
              says,
              back([called.id], () => takeBackCall(logged)),
              'Call taken back',
            );
          }}
        />
      )}
      {noting.about && (
        <NoteDialog
          key={noting.about.id}
          person={noting.about}
          opened={noting.opened}
          onClose={noting.close}
          onDone={(id, says) => done(says, () => removeNote(id, true), 'Note taken back')}
        />
      )}
      {promising.about && (
        <FollowUpDialog
          key={idsOf(promising.about)}
          people={promising.about}
          opened={promising.opened}
          today={today}
          onClose={promising.close}
          onDone={(ids, says) =>
            done(
              says,
              back([promising.about![0].id], () => takeBackFollowUps(ids)),
              'Follow-up taken back',
            )
          }
        />
      )}
      {grouping.about && (
        <CaseloadDialog
          key={idsOf(grouping.about)}
          people={grouping.about}
          opened={grouping.opened}
          onClose={grouping.close}
          onDone={(says) => {
            setSelected(new Set());
            notifications.show({ title: says, message: '' });
          }}
        />
      )}
      {aside.about && (
        <SetAsideDialog
          key={idsOf(aside.about)}
          people={aside.about}
          opened={aside.opened}
          onClose={aside.close}
          onDone={(ids, says) => {
            setSelected(new Set());
            done(
              says,
              back(ids, () => bringBack(ids)),
              'Put back on the Watch',
            );
          }}
        />
      )}
    </>
  );
  return {
    cursor,
    person,
    /** What the list is narrowed to, as its address says it. */
    segmentKey: asked.get('in'),
    go,
    selected,
    setSelected,
    toggle,
    pageOf,
    act,
    rowProps: (index: number) => ({
      ref: (element: HTMLElement | null) => {
        rows.current[index] = element;
        if (!element || coming.current !== index) return;
        coming.current = null;
        element.focus({ preventScroll: true });
      },
      // One row of the list is in the order of the Tab key: the one under the cursor.
      tabIndex: index === cursor ? 0 : -1,
    }),
    done,
    pending,
    start,
    dialogs,
  };
}
