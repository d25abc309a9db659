'use client';

import type { Attender } from './attender';
import { Button, Table } from '@mantine/core';
import { useState } from 'react';
import type { MarkSource } from '@/core/sessions/attendance';
import type { Presence } from '@/core/sessions/presence';
import { sayCount, sayTime } from '@/core/time/words';
import { MINUTE } from '@/core/time/zone';
import { MarkForm } from '@/ui/mark-form';
import { Gap } from '../../../_list/rows';
import { useVirtualRows } from '../../../_list/use-virtual-rows';
import { PersonLink } from '../../../_people/person-link';
import { useAction } from '../../../_frame/use-action';
import { settleDifference } from '../actions';
import { useAccept } from './use-accept';
import { useSessionStream } from './use-session-stream';
import classes from './session.module.css';

interface ShownMark {
  code: string;
  label: string;
  credit: number;
  counts: boolean;
  ended: boolean;
}

interface Props {
  session: { sessionId: string; starts: number; ends: number };
  people: Attender[];
  marks: ShownMark[];
  mayTake: boolean;
  hasPresence: boolean;
  isOn: boolean;
  /** How the session stood when the page was made. */
  version: string;
  now: number;
  zone: string;
}

const NEVER = Number.POSITIVE_INFINITY;

/** What a column sorts by; nobody seen comes last. */
const SORTS = {
  name: { title: 'Learner', of: () => 0, down: false },
  minutes: { title: 'Min', of: ({ presence }: Attender) => presence?.ms ?? -1, down: true },
  share: { title: 'Share', of: ({ presence }: Attender) => presence?.share ?? -1, down: true },
  first: { title: 'In', of: ({ presence }: Attender) => presence?.firstIn ?? NEVER, down: false },
  last: { title: 'Out', of: ({ presence }: Attender) => presence?.lastOut ?? -1, down: true },
  rejoins: { title: 'Rejoins', of: ({ presence }: Attender) => presence?.reconnects ?? -1, down: true },
  gap: { title: 'Longest gap', of: ({ presence }: Attender) => presence?.longestGapMs ?? -1, down: true },
  suggested: {
    title: 'Suggested',
    of: ({ suggested }: Attender) => ['absent', 'partial', 'late', 'present'].indexOf(suggested?.mark ?? ''),
    down: false,
  },
} as const;
type Sort = keyof typeof SORTS;

const ROW_HEIGHT = 33;

/** One line a learner across the session's time, with what it comes to and the mark it suggests. */
export function PresenceTable({
  session,
  people,
  marks,
  mayTake,
  hasPresence,
  isOn,
  version,
  now: serverNow,
  zone,
}: Props) {
  const now = useSessionStream(session.sessionId, { isOn, version, now: serverNow });
  const [{ sort, down }, setSort] = useState<{ sort: Sort; down: boolean }>({ sort: 'name', down: false });
  const rows = sort === 'name' ? (down ? [...people].reverse() : people) : sorted(people, sort, down);
  const virtual = useVirtualRows(rows.length, ROW_HEIGHT);
  const { accept, pending } = useAccept(session.sessionId);
  const toFill = people.filter(({ mark, suggested }) => mark === null && suggested !== null);
  const inNow = people.filter(({ presence }) => isOn && presence?.isOpen).length;
  const heads: Sort[] = hasPresence ? ['minutes', 'share', 'first', 'last', 'rejoins', 'gap'] : [];
  const head = (name: Sort, className?: string) => (
    <Table.Th
      key={name}
      className={className}
      aria-sort={sort === name ? (down ? 'descending' : 'ascending') : undefined}
    >
      <button
        type="button"
        className={classes.sort}
        onClick={() => setSort({ sort: name, down: sort === name ? !down : SORTS[name].down })}
      >
        {SORTS[name].title}
        {sort === name && <span aria-hidden="true">{down ? ' ↓' : ' ↑'}</span>}
      </button>
    </Table.Th>
  );
  return (
    <>
      <div className={classes.bar}>
        {isOn && (
          <strong role="status">
            On now · {inNow} of {people.length} in
          </strong>
        )}
        {mayTake && toFill.length > 0 && (
          <Button loading={pending} onClick={() => accept(toFill)}>
            Accept {sayCount(toFill.length, 'suggestion')}
          </Button>
        )}
        {hasPresence && !isOn && toFill.length === 0 && <span className={classes.soft}>Everybody has a mark.</span>}
      </div>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Presence">
        <Table stickyHeader horizontalSpacing={6} verticalSpacing={3}>
          <Table.Thead>
            <Table.Tr>
              {head('name')}
              {hasPresence && (
                <Table.Th className={classes.axis}>
                  <Axis session={session} zone={zone} />
                </Table.Th>
              )}
              {heads.map((name) => head(name, classes.figure))}
              {hasPresence && !isOn && head('suggested')}
              <Table.Th>Mark</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody ref={virtual.body}>
            <Gap height={virtual.above} columns={10} />
            {virtual.places.map((place) => {
              const one = rows[place];
              return (
                <tr key={one.id} {...virtual.row(place)} className={classes.line}>
                  <td>
                    <PersonLink learnerId={one.learnerId} name={one.name} />
                    {one.group && <span className={classes.soft}> of {one.group}</span>}
                  </td>
                  {hasPresence && (
                    <td>
                      <Line
                        session={session}
                        presence={one.presence}
                        now={now}
                        isOn={isOn}
                        name={one.name}
                        zone={zone}
                      />
                    </td>
                  )}
                  {hasPresence && (
                    <Figures presence={one.presence} isOn={isOn} now={now} session={session} zone={zone} />
                  )}
                  {hasPresence && !isOn && (
                    <td className={classes.reason} title={one.suggested?.reason}>
                      {one.suggested && (
                        <>
                          {one.suggested.mark} <span className={classes.soft}>{besides(one.suggested.reason)}</span>
                        </>
                      )}
                    </td>
                  )}
                  <td>
                    <MarkCell
                      one={one}
                      marks={marks}
                      mayTake={mayTake}
                      sessionId={session.sessionId}
                      onAccept={() => accept([one])}
                      zone={zone}
                    />
                  </td>
                </tr>
              );
            })}
            <Gap height={virtual.below} columns={10} />
          </Table.Tbody>
        </Table>
      </div>
    </>
  );
}

function sorted(people: readonly Attender[], sort: Sort, down: boolean): Attender[] {
  const { of } = SORTS[sort];
  return [...people].sort((a, b) => (of(a) - of(b)) * (down ? -1 : 1));
}

/** A reason without what the figures beside it say. */
function besides(reason: string): string {
  return reason
    .split(', ')
    .filter((part) => !part.startsWith('there for') && part !== 'not seen')
    .join(', ');
}

const percent = (part: number) => `${(100 * part).toFixed(3)}%`;

/** The session's start and end, and its quarters. */
function Axis({ session: { starts, ends }, zone }: Pick<Props, 'session' | 'zone'>) {
  return (
    <div className={classes.axisLine}>
      <span>{sayTime(starts, zone)}</span>
      <span>{sayTime((starts + ends) / 2, zone)}</span>
      <span>{sayTime(ends, zone)}</span>
    </div>
  );
}

interface LineProps extends Pick<Props, 'session' | 'zone' | 'isOn' | 'now'> {
  presence: Presence | null;
  name: string;
}

/** When somebody was there, as bars with the gaps left white; said in words for whoever does not see it. */
function Line({ session: { starts, ends }, presence, now, isOn, name, zone }: LineProps) {
  const length = ends - starts;
  const intervals = (presence?.intervals ?? []).map(([from, to]): [number, number] => [
    from,
    isOn ? Math.min(to, Math.max(now, from)) : to,
  ]);
  const says = intervals.map(([from, to]) => `${sayTime(from, zone)} to ${sayTime(to, zone)}`).join(', ');
  return (
    <div className={classes.track} role="img" aria-label={`${name}: ${says || 'not seen'}`} title={says || 'not seen'}>
      {[0.25, 0.5, 0.75].map((at) => (
        <span key={at} className={classes.quarter} style={{ left: percent(at) }} />
      ))}
      {intervals.map(([from, to], index) => (
        <span
          key={from}
          className={classes.stay}
          data-open={(isOn && presence!.isOpen && index === intervals.length - 1) || undefined}
          style={{ left: percent((from - starts) / length), width: percent(Math.max(0, to - from) / length) }}
        />
      ))}
      {isOn && <span className={classes.nowLine} style={{ left: percent((now - starts) / length) }} />}
    </div>
  );
}

interface FiguresProps extends Pick<Props, 'session' | 'zone' | 'isOn' | 'now'> {
  presence: Presence | null;
}

/** While it is on, somebody who is in has been in until now. */
function Figures({ presence, isOn, now, session, zone }: FiguresProps) {
  if (presence === null || presence.firstIn === null || presence.lastOut === null) {
    return (
      <td colSpan={6} className={classes.none}>
        {presence === null ? 'not seen' : 'there outside of the session alone'}
      </td>
    );
  }
  const stillIn = isOn && presence.isOpen;
  const ms = stillIn ? Math.max(0, presence.ms - (session.ends - now)) : presence.ms;
  const gap = presence.longestGapMs;
  return (
    <>
      <td className={classes.figure}>{Math.round(ms / MINUTE)}</td>
      <td className={classes.figure}>{Math.round((100 * ms) / (session.ends - session.starts))} %</td>
      <td className={classes.figure}>{sayTime(presence.firstIn, zone)}</td>
      <td className={classes.figure}>
        {stillIn ? 'in' : sayTime(presence.lastOut, zone)}
        {!isOn && presence.isOpen && <span title="Nobody noted when they left: taken to the end"> *</span>}
      </td>
      <td className={classes.figure}>{presence.reconnects || ''}</td>
      <td className={classes.figure}>
        {gap === 0 ? '' : gap < MINUTE ? `${Math.round(gap / 1000)} s` : `${Math.round(gap / MINUTE)} min`}
      </td>
    </>
  );
}

const SOURCES: Record<MarkSource, string> = {
  hand: 'by hand',
  file: 'from a file',
  check_in: 'checked in',
  suggested: 'as suggested',
};

interface MarkProps extends Pick<Props, 'marks' | 'mayTake' | 'zone'> {
  one: Attender;
  sessionId: string;
  onAccept: () => void;
}

/** The mark there is, how it came about, and what is otherwise: the suggestion, or a file's. */
function MarkCell({ one, marks, mayTake, sessionId, onAccept, zone }: MarkProps) {
  const { pending, run } = useAction();
  const given = marks.find(({ code }) => code === one.mark);
  const label = (code: string) => marks.find((mark) => mark.code === code)?.label ?? code;
  const isOther = given !== undefined && one.suggested !== null && one.suggested.mark !== given.code && given.counts;
  return (
    <span className={classes.markCell}>
      {given ? (
        <>
          <MarkForm credit={given.credit} counts={given.counts} /> {given.label}{' '}
          <span className={classes.soft}>{one.source && SOURCES[one.source]}</span>
        </>
      ) : (
        <span className={classes.none}>no mark</span>
      )}
      {one.checkedIn !== null && one.source !== 'check_in' && (
        <span className={classes.soft}>checked in {sayTime(one.checkedIn, zone)}</span>
      )}
      {one.differs && (
        <span className={classes.differs}>
          a file says {label(one.differs)}
          {mayTake && (
            <>
              <Button
                variant="subtle"
                size="compact-xs"
                loading={pending}
                onClick={() => run(() => settleDifference(sessionId, one.learnerId, 'theirs'))}
              >
                Take it
              </Button>
              <Button
                variant="subtle"
                size="compact-xs"
                loading={pending}
                onClick={() => run(() => settleDifference(sessionId, one.learnerId, 'ours'))}
              >
                Keep ours
              </Button>
            </>
          )}
        </span>
      )}
      {isOther && <span className={classes.differs}>otherwise than suggested</span>}
      {mayTake && one.suggested && (given === undefined || isOther) && (
        <Button
          variant="default"
          size="compact-xs"
          onClick={onAccept}
          aria-label={`Accept ${one.suggested.mark} for ${one.name}`}
        >
          Accept
        </Button>
      )}
    </span>
  );
}
