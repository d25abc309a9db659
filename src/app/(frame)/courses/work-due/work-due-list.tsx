'use client';

import { Button, Table } from '@mantine/core';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { unpackRows, type PackedRows } from '@/core/rows';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { DUE_WORDS } from '@/core/work/due';
import type { Params } from '@/server/request/list';
import type { WorkDueLine } from '@/server/work/work-due-list';
import { RowCheck } from '@/ui/row-check';
import { linkTo } from '../../../_list/list-link';
import { useEndless } from '../../../_list/use-endless';
import { ActionButtons } from '../../../_people/action-buttons';
import { usePeople } from '../../../_people/use-people';
import type { Pair } from '@/server/work/pairs';
import { WorkActions, WorkDialogs } from '../work-actions';
import classes from '../courses.module.css';

interface Props {
  lines: PackedRows<WorkDueLine>;
  next: string | null;
  total: number;
  params: Params;
  here: string;
  today: number;
  zone: string;
  now: number;
}

/** What a message to those with work overdue begins with: each with their own list. */
const REMINDER = {
  subject: 'What is open in {{course}}',
  body: 'Hello {{given_name}},\n\nthis is past its date and not handed in yet:\n\n{{overdue_list}}\n\nHand in what you have; if something is in the way, tell me.\n\n{{my_name}}',
};

const HEADS = [
  ['Learner', 'name'],
  ['Item', 'item'],
  ['Due', 'due'],
  ['State', null],
  ['Late', '-late'],
] as const;

/** Assignments, a row each; what is selected is the item, and a message to its learner names all that is overdue. */
export function WorkDueList({ lines: packed, next, total, params, here, today, zone, now }: Props) {
  const lines = useMemo(
    () => unpackRows(packed).map((line) => ({ ...line, row: line.enrolmentId * 100_000 + line.itemNumber })),
    [packed],
  );
  const { all, goesOn, more, failed, load } = useEndless(lines, next, '/lists/work-due/rows', params);
  const rows = useMemo(
    () => all.map((line) => ({ ...line, row: line.row ?? line.enrolmentId * 100_000 + line.itemNumber })),
    [all],
  );
  const list = usePeople({ people: rows, today, here, begin: REMINDER });
  const { selected, setSelected } = list;
  const chosen = rows.filter(({ row }) => selected.has(row));
  const people = new Set(chosen.map(({ id }) => id)).size;
  const pairs = (some: readonly WorkDueLine[]) => some.map(({ id, itemNumber }) => [id, itemNumber] as const);
  /** Everything of a learner that was due before they came. */
  const earlyOf = (line: WorkDueLine) =>
    rows.filter(({ enrolmentId, early }) => enrolmentId === line.enrolmentId && early !== null);
  return (
    <>
      <div className={classes.scroll}>
        <Table className={classes.due}>
          <Table.Thead>
            <Table.Tr>
              <Table.Th w={30} aria-label="Selected" />
              {HEADS.map(([title, sort]) => (
                <Table.Th key={title}>
                  {sort === null ? (
                    title
                  ) : (
                    <Link
                      className={classes.sort}
                      href={linkTo('/courses/work-due', {
                        ...params,
                        sort: params.sort === sort ? (sort.startsWith('-') ? sort.slice(1) : `-${sort}`) : sort,
                      })}
                    >
                      {title}
                      {params.sort?.replace('-', '') === sort.replace('-', '') && (
                        <span aria-hidden="true">{params.sort.startsWith('-') ? ' ↓' : ' ↑'}</span>
                      )}
                    </Link>
                  )}
                </Table.Th>
              ))}
              <Table.Th aria-label="What to do" />
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {rows.map((line, index) => (
              <Table.Tr
                key={line.row}
                {...list.rowProps(index)}
                className={classes.item}
                data-current={index === list.cursor || undefined}
                aria-selected={selected.has(line.row)}
                onClick={() => list.go(index)}
              >
                <Table.Td>
                  <RowCheck
                    checked={selected.has(line.row)}
                    onChange={() => list.toggle(line.row)}
                    label={`Select ${line.item} of ${line.name}`}
                  />
                </Table.Td>
                <Table.Td>
                  <Link href={list.pageOf(line)}>
                    <bdi>{line.name}</bdi>
                  </Link>
                  <small>{[line.course, line.group].filter(Boolean).join(' · ')}</small>
                </Table.Td>
                <Table.Td>
                  <Link
                    href={linkTo(
                      `/learners/${encodeURIComponent(line.learnerId)}/courses/${encodeURIComponent(line.course)}`,
                      { from: here, item: line.itemId },
                    )}
                  >
                    {line.item}
                  </Link>
                </Table.Td>
                <Table.Td>
                  {sayInstant(line.dueAt, zone, now)}
                  {line.extendedFrom !== null && (
                    <small>extended from {sayDay(dayOf(line.extendedFrom, zone), today)}</small>
                  )}
                </Table.Td>
                <Table.Td data-overdue={line.isOverdue || undefined}>
                  {DUE_WORDS[line.state]}
                  {line.early && <small>{line.early}</small>}
                  {line.submittedAt !== null && <small>{sayInstant(line.submittedAt, zone, now)}</small>}
                </Table.Td>
                <Table.Td>{line.daysLate > 0 ? sayCount(line.daysLate, 'day') : ''}</Table.Td>
                <Table.Td className={classes.deeds}>
                  {index === list.cursor && (
                    <>
                      <WorkActions cells={{ pairs: pairs([line]), says: `${line.item}, for ${line.name}` }} />
                      {line.early && <ExtendEarly pairs={pairs(earlyOf(line))} name={line.name} />}
                    </>
                  )}
                </Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
        {goesOn && (
          <p ref={more} className={classes.soft}>
            {failed ? (
              <Button variant="default" onClick={() => void load()}>
                The next ones did not come. Try again
              </Button>
            ) : (
              `${rows.length} of ${total}`
            )}
          </p>
        )}
      </div>
      {selected.size > 0 && (
        <div className={classes.selection} role="region" aria-label="Selected learners">
          <strong>
            {sayCount(people, 'learner')}, {sayCount(chosen.length, 'assignment')}
          </strong>
          <ActionButtons
            count={people}
            busy={list.pending}
            onAct={(name) => list.act(name, [...new Map(chosen.map((one) => [one.id, one])).values()])}
          />
          <WorkActions
            cells={{
              pairs: pairs(chosen),
              says: `${sayCount(chosen.length, 'assignment')} of ${sayCount(people, 'learner')}`,
            }}
            onDone={() => setSelected(new Set())}
          />
          <Button variant="default" onClick={() => setSelected(new Set())}>
            Clear
          </Button>
        </div>
      )}
      {list.dialogs}
    </>
  );
}

/** Gives a date of their own to everything that was due before somebody came, in one press. */
function ExtendEarly({ pairs, name }: { pairs: Pair[]; name: string }) {
  const [open, setOpen] = useState(false);
  const says = `${sayCount(pairs.length, 'assignment')} due before ${name} came`;
  return (
    <>
      <Button variant="default" size="compact-xs" onClick={() => setOpen(true)}>
        Extend all {pairs.length} due before they came…
      </Button>
      <WorkDialogs open={open ? 'extend' : null} cells={{ pairs, says }} onClose={() => setOpen(false)} />
    </>
  );
}
