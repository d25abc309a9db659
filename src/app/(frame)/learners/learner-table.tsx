'use client';

import { Checkbox, Table } from '@mantine/core';
import { useMediaQuery } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import Link from 'next/link';
import { useMemo } from 'react';
import { bandWord } from '@/core/drift/bands';
import { unpackRows, type PackedRows } from '@/core/rows';
import type { LearnerLine, ListColumn } from '@/server/people/learner-columns';
import { Gauge } from '@/ui/gauge';
import { RowCheck } from '@/ui/row-check';
import type { Params } from '@/server/request/list';
import { Gap, MoreRows, SortHead } from '../../_list/rows';
import { useEndless } from '../../_list/use-endless';
import { useVirtualRows } from '../../_list/use-virtual-rows';
import { PeopleLayout } from '../../_people/people-layout';
import { SidePerson } from '../../_people/side-person';
import { usePeople } from '../../_people/use-people';
import { everyLearnerMatching } from './actions';
import classes from './learners.module.css';

interface Column {
  name: ListColumn;
  /** Where a line says it. */
  place: number;
  title: string;
  sort?: string;
  as?: 'gauge' | 'phone' | 'any direction';
}

interface Props {
  lines: PackedRows<LearnerLine>;
  /** The columns, those of one cell together. */
  cells: Column[][];
  params: Params;
  /** Place of the first line in the whole list. */
  offset: number;
  total: number;
  endless: boolean;
  /** Where a line says the phone number, shown or not. */
  phonePlace: number;
  /** The place after which an endless list goes on; null at its end. */
  next: string | null;
  here: string;
  today: number;
  now: number;
  zone: string;
  asOf: string | null;
}

/** Two lines and their edges, in px. */
const ROW_HEIGHT = 47;

/** The list itself, with the person under the cursor explained at the right. */
export function LearnerTable(props: Props) {
  const { cells, params, offset, total, endless, phonePlace, next, here, today, now, zone, asOf } = props;
  const lines = useMemo(() => unpackRows(props.lines), [props.lines]);
  const narrow = useMediaQuery('(max-width: 900px)');
  const { all, more, failed, load } = useEndless(lines, endless ? next : null, '/lists/learners/rows', params);
  const people = useMemo(
    () =>
      all.map((line) => ({
        id: line.id,
        learnerId: line.learnerId,
        name: line.name,
        phone: line.cells[phonePlace] || null,
      })),
    [all, phonePlace],
  );
  const virtual = useVirtualRows(all.length, ROW_HEIGHT);
  const list = usePeople({ people, today, here, inAddress: true, onFar: virtual.scrollTo });
  const { selected, setSelected } = list;
  const allSelected = all.every((line) => selected.has(line.id));
  const head = (columns: Pick<Column, 'title' | 'sort'>[], className?: string) => (
    <SortHead
      key={columns[0].title}
      path="/learners"
      params={params}
      columns={columns}
      className={className}
      usual="name"
    />
  );
  const selectAll = () =>
    list.start(async () => {
      const result = await everyLearnerMatching(here.split('?')[1] ?? '');
      if (result.ok) setSelected(new Set(result.value));
      else notifications.show({ title: 'They could not be selected', message: result.says, color: 'red' });
    });
  const side = (
    <SidePerson
      list={list}
      people={lines}
      place={`${offset + list.cursor + 1} of ${total}`}
      now={now}
      zone={zone}
      asOf={asOf}
    />
  );
  return (
    <PeopleLayout list={list} people={people} total={total} side={side} sheetTitle="Why" onSelectAll={selectAll}>
      {(show) => (
        <div className={classes.scroll} tabIndex={0} role="group" aria-label="Learners">
          <Table stickyHeader horizontalSpacing={6} aria-rowcount={virtual.isCut ? total + 1 : undefined}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th w={30}>
                  <Checkbox
                    size="xs"
                    aria-label={allSelected ? 'Select nobody' : 'Select everybody on this page'}
                    checked={allSelected}
                    indeterminate={selected.size > 0 && !allSelected}
                    onChange={() => setSelected(allSelected ? new Set() : new Set(all.map((line) => line.id)))}
                  />
                </Table.Th>
                {head([
                  { title: 'Learner', sort: 'name' },
                  { title: 'Id', sort: 'learner_id' },
                ])}
                {cells.map((columns) => head(columns, cellClass(columns)))}
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody ref={virtual.body}>
              <Gap height={virtual.above} columns={cells.length + 2} />
              {virtual.places.map((index) => {
                const line = all[index];
                const row = list.rowProps(index);
                const measured = virtual.row(index);
                return (
                  <tr
                    key={line.id}
                    {...row}
                    {...measured}
                    ref={(element) => {
                      row.ref(element);
                      measured.ref?.(element);
                    }}
                    aria-rowindex={virtual.isCut ? offset + index + 2 : undefined}
                    className={classes.line}
                    data-current={line.id === list.person?.id || undefined}
                    onClick={(event) => {
                      // A link or a box in the row does its own work.
                      if (!(event.target as HTMLElement).closest('a, input, button')) list.go(index);
                    }}
                  >
                    <td>
                      <RowCheck
                        checked={selected.has(line.id)}
                        onChange={() => list.toggle(line.id)}
                        label={`Select ${line.name}`}
                      />
                    </td>
                    <td>
                      <Link href={list.pageOf(line)}>
                        <bdi>{line.name}</bdi>
                      </Link>
                      <div className={classes.soft}>
                        {line.learnerId}
                        {line.isProvisional && ' · provisional'}
                        {narrow && (
                          <button
                            type="button"
                            className={classes.why}
                            onClick={() => {
                              list.go(index);
                              show();
                            }}
                          >
                            why
                          </button>
                        )}
                      </div>
                    </td>
                    {cells.map((columns) => (
                      <td key={columns[0].name} className={cellClass(columns)}>
                        {columns.map(({ name, place, as }) => (
                          <div key={name}>
                            <Cell line={line} as={as} text={line.cells[place]} />
                          </div>
                        ))}
                      </td>
                    ))}
                  </tr>
                );
              })}
              <Gap height={virtual.below} columns={cells.length + 2} />
            </Table.Tbody>
          </Table>
          {endless && all.length + offset < total && (
            <MoreRows more={more} failed={failed} load={load} says={`${all.length} of ${total} …`} />
          )}
        </div>
      )}
    </PeopleLayout>
  );
}

/** On a narrow screen only the cell with the days of quiet stays. */
function cellClass(columns: Column[]): string | undefined {
  return columns.some(({ name }) => name === 'days_quiet') ? undefined : classes.wide;
}

function Cell({ line, as, text }: { line: LearnerLine; as: Column['as']; text: string }) {
  if (as === 'gauge') {
    return (
      <span className={classes.drift}>
        <Gauge score={line.score} band={line.band} size="list" />
        {line.score === null ? text : `${text} ${bandWord(line.band)}`}
      </span>
    );
  }
  if (as === 'phone') {
    return text ? (
      <a href={`tel:${text.replace(/[^\d+]/g, '')}`}>{text}</a>
    ) : (
      <span className={classes.soft}>no phone</span>
    );
  }
  if (!text) return <span className={classes.soft}>none</span>;
  // Whatever somebody named may be written from right to left; what we say is not.
  return as === 'any direction' ? <bdi>{text}</bdi> : text;
}
