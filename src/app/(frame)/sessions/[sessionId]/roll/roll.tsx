'use client';

import { Button, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { sayCount, sayInstant } from '@/core/time/words';
import { MarkForm } from '@/ui/mark-form';
import { useLetters } from '../../../../_frame/letters';
import { useAction } from '../../../../_frame/use-action';
import { useVirtualRows } from '../../../../_list/use-virtual-rows';
import { PersonLink } from '../../../../_people/person-link';
import { takeRollBack } from '../../actions';
import classes from '../session.module.css';
import { useRoll, type OnRoll, type RollState } from './use-roll';
import type { OwnMark } from '../../../../_frame/stored-marks';

interface RollMark {
  code: string;
  label: string;
  credit: number;
  counts: boolean;
}

interface Props {
  sessionId: string;
  staffId: number;
  taken: boolean;
  marks: RollMark[];
  people: OnRoll[];
  zone: string;
  now: number;
}

/** A line of the roll, in px. */
const ROW_HEIGHT = 36;

const STATES: Record<RollState, string> = {
  saved: 'Every mark is saved',
  saving: 'Saving …',
  waiting: 'Saved on this device, and sent when the connection returns',
  refused: 'Not taken',
};

/** The roll: all at once, then the exceptions; arrows go down the list, a digit gives a mark, u undoes. */
export function Roll({ sessionId, staffId, taken, marks, people, zone, now }: Props) {
  const router = useRouter();
  const roll = useRoll(sessionId, staffId, people);
  const [cursor, setCursor] = useState(0);
  const rows = useRef<(HTMLLIElement | null)[]>([]);
  const { pending, run } = useAction();
  const open = people.filter(({ learnerId }) => roll.of(learnerId).mark === null).map(({ learnerId }) => learnerId);
  const given = people.length - open.length;
  const wasSaved = useRef(true);
  useEffect(() => {
    // The list of changes and the head follow once all is stored.
    if (roll.state === 'saved' && !wasSaved.current) router.refresh();
    wasSaved.current = roll.state === 'saved';
  }, [roll.state, router]);
  useLetters([['u', roll.undo]]);
  const virtual = useVirtualRows<HTMLUListElement>(people.length, ROW_HEIGHT);
  const go = (index: number) => {
    const next = Math.min(people.length - 1, Math.max(0, index));
    setCursor(next);
    if (rows.current[next]) return rows.current[next].focus();
    virtual.scrollTo(next);
    // It is drawn only now.
    setTimeout(() => rows.current[next]?.focus(), 50);
  };
  const onKeyDown = (event: KeyboardEvent, index: number) => {
    if (event.ctrlKey || event.metaKey || event.altKey || (event.target as HTMLElement).matches('input')) return;
    const digit = /^\d$/.test(event.key) ? Number(event.key) : null;
    const moves: Record<string, number> = { ArrowDown: index + 1, ArrowUp: index - 1, Home: 0, End: people.length - 1 };
    if (event.key in moves) go(moves[event.key]);
    else if (digit === 0) roll.give([people[index].learnerId], { mark: null });
    else if (digit !== null && marks[digit - 1]) roll.give([people[index].learnerId], { mark: marks[digit - 1].code });
    else return;
    event.preventDefault();
  };
  return (
    <section aria-label="Roll">
      <div className={classes.bar}>
        {marks
          .filter(({ code }) => code === 'present' || code === 'absent')
          .map(({ code, label }) => (
            <Button
              key={code}
              variant={code === 'present' ? 'filled' : 'default'}
              disabled={open.length === 0}
              onClick={() => roll.give(open, { mark: code })}
            >
              {given === 0 || open.length === 0 ? `All ${label}` : `The other ${open.length} ${label}`}
            </Button>
          ))}
        <Button variant="default" onClick={roll.undo}>
          Undo
        </Button>
        <span
          className={classes.state}
          data-waiting={roll.state === 'waiting' || roll.state === 'refused' || undefined}
          role="status"
        >
          {given} of {people.length} marked{(given > 0 || roll.waiting > 0) && ' · '}
          {roll.waiting > 0 && roll.state === 'waiting' && `${sayCount(roll.waiting, 'mark')}: `}
          {(given > 0 || roll.state !== 'saved') && STATES[roll.state]}
          {roll.state === 'refused' && roll.trouble && `: ${roll.trouble}`}
        </span>
        {taken && open.length === 0 && (
          <Button
            variant="subtle"
            loading={pending}
            onClick={() =>
              run(() => takeRollBack(sessionId), {
                done: 'The roll is taken back; every mark stays in its history',
                then: () => window.location.reload(),
              })
            }
          >
            Take the roll back
          </Button>
        )}
      </div>
      <p className={`${classes.soft} ${classes.keys}`}>
        ↑ ↓ go down the list; {marks.map(({ label }, index) => `${index + 1} ${label}`).join(', ')}, 0 no mark; u
        undoes.
      </p>
      {roll.conflicts.length > 0 && (
        <Conflicts {...{ people, marks, zone, now }} conflicts={roll.conflicts} onSettle={roll.settle} />
      )}
      <ul ref={virtual.body} className={classes.roll}>
        {virtual.above > 0 && <li aria-hidden="true" style={{ height: virtual.above }} />}
        {virtual.places.map((index) => {
          const one = people[index];
          const measured = virtual.row(index);
          return (
            <Person
              key={one.learnerId}
              one={one}
              place={measured['data-index']}
              own={roll.of(one.learnerId)}
              marks={marks}
              isCurrent={index === cursor}
              rowRef={(element) => {
                rows.current[index] = element;
                measured.ref?.(element);
              }}
              onKeyDown={(event) => onKeyDown(event, index)}
              onFocus={() => setCursor(index)}
              onMark={(mark) => roll.give([one.learnerId], { mark })}
              onRemark={(remark) => roll.give([one.learnerId], { remark })}
            />
          );
        })}
        {virtual.below > 0 && <li aria-hidden="true" style={{ height: virtual.below }} />}
      </ul>
    </section>
  );
}

interface PersonProps {
  one: OnRoll;
  /** Its place, where only some of the list are drawn. */
  place?: number;
  own: OwnMark;
  marks: RollMark[];
  isCurrent: boolean;
  rowRef: (element: HTMLLIElement | null) => void;
  onKeyDown: (event: KeyboardEvent) => void;
  onFocus: () => void;
  onMark: (mark: string | null) => void;
  onRemark: (remark: string) => void;
}

function Person({ one, place, own, marks, isCurrent, rowRef, onKeyDown, onFocus, onMark, onRemark }: PersonProps) {
  const [remarking, setRemarking] = useState(false);
  const [text, setText] = useState(own.remark);
  const done = () => {
    setRemarking(false);
    if (text.trim() !== own.remark) onRemark(text.trim());
  };
  const said = marks.find(({ code }) => code === own.mark)?.label ?? 'no mark';
  return (
    <li
      ref={rowRef}
      data-index={place}
      className={classes.person}
      tabIndex={isCurrent ? 0 : -1}
      data-current={isCurrent || undefined}
      aria-label={`${one.name}: ${said}`}
      onKeyDown={onKeyDown}
      onFocus={onFocus}
    >
      <span>
        <PersonLink learnerId={one.learnerId} name={one.name} />
        {one.group && <span className={classes.soft}> of {one.group}</span>}
      </span>
      <span className={classes.choices} role="radiogroup" aria-label={`Mark of ${one.name}`}>
        {marks.map(({ code, label, credit, counts }) => (
          <button
            key={code}
            type="button"
            role="radio"
            tabIndex={-1}
            aria-checked={own.mark === code}
            className={classes.choice}
            onClick={() => onMark(own.mark === code ? null : code)}
          >
            <MarkForm credit={credit} counts={counts} />
            {label}
          </button>
        ))}
      </span>
      <span className={classes.hints}>
        {remarking ? (
          <TextInput
            size="xs"
            className={classes.remark}
            aria-label={`Remark on ${one.name}`}
            autoFocus
            maxLength={1000}
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
            onBlur={done}
            onKeyDown={(event) => {
              if (event.key === 'Enter') done();
            }}
          />
        ) : (
          <>
            <Button
              variant="subtle"
              size="compact-xs"
              onClick={() => {
                setText(own.remark);
                setRemarking(true);
              }}
              aria-label={`Remark on ${one.name}`}
            >
              {own.remark || 'Remark'}
            </Button>
            <span className={classes.hint} title={one.hint}>
              {one.hint}
            </span>
          </>
        )}
      </span>
    </li>
  );
}

interface ConflictsProps extends Pick<Props, 'people' | 'marks' | 'zone' | 'now'> {
  conflicts: ReturnType<typeof useRoll>['conflicts'];
  onSettle: ReturnType<typeof useRoll>['settle'];
}

/** Learners whom a colleague has marked meanwhile: both marks, and a person chooses. */
function Conflicts({ people, marks, zone, now, conflicts, onSettle }: ConflictsProps) {
  const label = (code: string | null) => marks.find((mark) => mark.code === code)?.label ?? 'no mark';
  return (
    <div className={classes.conflicts} role="alert">
      <strong>{sayCount(conflicts.length, 'mark')} that a colleague gave meanwhile</strong>
      <ul>
        {conflicts.map((conflict) => (
          <li key={conflict.learner_id}>
            {people.find(({ learnerId }) => learnerId === conflict.learner_id)?.name}: {conflict.by ?? 'a colleague'}{' '}
            says {label(conflict.mark)} ({sayInstant(conflict.at, zone, now)}), you say {label(conflict.own.mark)}{' '}
            <Button size="compact-xs" variant="default" onClick={() => onSettle(conflict, true)}>
              Mine
            </Button>{' '}
            <Button size="compact-xs" variant="default" onClick={() => onSettle(conflict, false)}>
              Theirs
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}
