'use client';

import { Button, Group, Table, TextInput } from '@mantine/core';
import { useState } from 'react';
import { PlainTable } from '@/ui/plain-table';
import type { ProvisionalRow } from '@/data/imports/provisional';
import { useAction } from '../../../_frame/use-action';
import { bringBackDropped, settleProvisional } from '../actions';
import classes from '../set-up.module.css';

const IDS = { course: 'Its code', learner: 'Their id', item: 'Its id' } as const;

/** What was made without being told of: each is confirmed, made one with something known, or dropped. */
export function ProvisionalList({ kind, rows }: { kind: ProvisionalRow['kind']; rows: ProvisionalRow[] }) {
  return (
    <PlainTable
      label={`Provisional: ${kind}s`}
      heads={['Name', 'Courses', 'Hangs on it', 'Made for']}
      last="What it is"
      verticalSpacing={3}
    >
      {rows.map((row) => (
        <Row key={row.id} row={row} />
      ))}
    </PlainTable>
  );
}

function Row({ row }: { row: ProvisionalRow }) {
  const { pending, run } = useAction();
  const [joining, setJoining] = useState<string | null>(null);
  const { kind, id } = row;
  const settle = (deed: 'confirm' | 'join' | 'drop', other = '') =>
    run(() => settleProvisional(kind, id, { do: deed, with: other }), { failed: 'It was not settled' });
  return (
    <Table.Tr>
      <Table.Td>
        <bdi>{row.name}</bdi>
        {row.external_id !== row.name && (
          <div className={classes.soft}>
            <bdi>{row.external_id}</bdi>
          </div>
        )}
      </Table.Td>
      <Table.Td>
        <bdi>{row.courses.join(', ')}</bdi>
      </Table.Td>
      <Table.Td ta="right">{row.hangs.toLocaleString('en-GB')}</Table.Td>
      <Table.Td className={classes.soft}>
        <bdi>{row.file ?? ''}</bdi>
      </Table.Td>
      <Table.Td>
        {joining === null ? (
          <Group gap={6} wrap="nowrap">
            <Button size="compact-xs" disabled={pending} onClick={() => settle('confirm')}>
              Confirm
            </Button>
            <Button size="compact-xs" variant="default" disabled={pending} onClick={() => setJoining('')}>
              Is another
            </Button>
            <Button size="compact-xs" variant="subtle" disabled={pending} onClick={() => settle('drop')}>
              Drop
            </Button>
          </Group>
        ) : (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void settle('join', joining);
            }}
          >
            <Group gap={6} wrap="nowrap">
              <TextInput
                size="xs"
                aria-label={`${IDS[kind]}: what ${row.name} is`}
                placeholder={IDS[kind]}
                value={joining}
                autoFocus
                onChange={(event) => setJoining(event.currentTarget.value)}
              />
              <Button size="compact-xs" type="submit" disabled={pending || joining.trim() === ''}>
                Make one
              </Button>
              <Button size="compact-xs" variant="subtle" onClick={() => setJoining(null)}>
                Cancel
              </Button>
            </Group>
          </form>
        )}
      </Table.Td>
    </Table.Tr>
  );
}

/** What was dropped, each to be brought back. */
export function DroppedList({ rows }: { rows: { id: number; kind: string; name: string; when: string }[] }) {
  const { pending, run } = useAction();
  return (
    <PlainTable label="Dropped" heads={['Name', 'Was', 'Dropped']} last="Bring back" verticalSpacing={3}>
      {rows.map(({ id, kind, name, when }) => (
        <Table.Tr key={id}>
          <Table.Td>
            <bdi>{name}</bdi>
          </Table.Td>
          <Table.Td>{kind}</Table.Td>
          <Table.Td>{when}</Table.Td>
          <Table.Td>
            <Button
              size="compact-xs"
              variant="default"
              disabled={pending}
              aria-label={`Bring ${name} back`}
              onClick={() => run(() => bringBackDropped(id), { failed: 'It was not brought back' })}
            >
              Bring back
            </Button>
          </Table.Td>
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
