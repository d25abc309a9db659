'use client';

import { Table } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import { sayCount } from '@/core/time/words';
import type { Params } from '@/server/request/list';
import type { SessionLine } from '@/server/sessions/sessions-list';
import { RowCheck } from '@/ui/row-check';
import { Gap, MoreRows, SortHead } from '../../../_list/rows';
import { useEndless } from '../../../_list/use-endless';
import { useVirtualRows } from '../../../_list/use-virtual-rows';
import { SessionActions } from '../session-forms';
import classes from '../sessions.module.css';

interface Props {
  lines: SessionLine[];
  next: string | null;
  params: Params;
  mayPlan: boolean;
}

const ROW_HEIGHT = 32;

/** Sessions in time order, several of which can be called off or deleted at once. */
export function SessionList({ lines, next, params, mayPlan }: Props) {
  const { all, goesOn, more, failed, load } = useEndless(lines, next, '/lists/sessions/rows', params);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const virtual = useVirtualRows(all.length, ROW_HEIGHT);
  const toggle = (id: string) => {
    const chosen = new Set(selected);
    if (!chosen.delete(id)) chosen.add(id);
    setSelected(chosen);
  };
  const chosen = all.filter(({ sessionId }) => selected.has(sessionId));
  return (
    <>
      {mayPlan && (
        <div className={classes.bar} role="group" aria-label="The selected">
          {chosen.length === 0 ? (
            <span className={classes.soft}>Select sessions to call them off or delete them.</span>
          ) : (
            <>
              <strong>{sayCount(chosen.length, 'session')} selected</strong>
              <SessionActions
                ids={chosen.map(({ sessionId }) => sessionId)}
                areOff={chosen.every(({ isOff }) => isOff)}
              />
            </>
          )}
        </div>
      )}
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Sessions">
        <Table stickyHeader>
          <Table.Thead>
            <Table.Tr>
              {mayPlan && <Table.Th w={30} aria-label="Selected" />}
              <SortHead
                path="/sessions/list"
                params={params}
                columns={[{ title: 'Time', sort: 'starts_at' }]}
                usual="starts_at"
              />
              <Table.Th>Session</Table.Th>
              <Table.Th className={classes.wide}>Course</Table.Th>
              <Table.Th className={classes.wide}>Where</Table.Th>
              <Table.Th>Roll</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody ref={virtual.body}>
            <Gap height={virtual.above} columns={6} />
            {virtual.places.map((place) => {
              const line = all[place];
              return (
                <tr
                  key={line.sessionId}
                  {...virtual.row(place)}
                  className={classes.line}
                  data-off={line.isOff || undefined}
                >
                  {mayPlan && (
                    <td>
                      <RowCheck
                        checked={selected.has(line.sessionId)}
                        onChange={() => toggle(line.sessionId)}
                        label={`Select ${line.title}, ${line.when}`}
                      />
                    </td>
                  )}
                  <td>{line.when}</td>
                  <td>
                    <Link href={`/sessions/${encodeURIComponent(line.sessionId)}`}>
                      <bdi>{line.title}</bdi>
                    </Link>
                  </td>
                  <td className={classes.wide}>{line.of}</td>
                  <td className={classes.wide}>{line.where}</td>
                  <td className={line.waits ? classes.wait : undefined}>{line.roll}</td>
                </tr>
              );
            })}
            <Gap height={virtual.below} columns={6} />
          </Table.Tbody>
        </Table>
      </div>
      {goesOn && <MoreRows more={more} failed={failed} load={load} says="Later sessions …" />}
    </>
  );
}
