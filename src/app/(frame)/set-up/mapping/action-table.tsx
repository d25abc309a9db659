'use client';

import { NativeSelect, Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { ACTION_KINDS } from '@/core/access/kinds';
import { useAction } from '../../../_frame/use-action';
import { settleActionKind } from '../actions';
import classes from '../set-up.module.css';

interface Action {
  id: number;
  word: string;
  kind: string;
  events: number;
  settled: number;
  derive_anew: number;
  builtIn: boolean;
}

/** The words of all sources with how often they occur, and what kind of action each is. */
export function ActionTable({ actions }: { actions: Action[] }) {
  const { pending, run } = useAction();
  const settle = (action: Action, kind: string) =>
    run(() => settleActionKind(action.id, kind), { failed: 'It was not kept' });
  return (
    <PlainTable label="Action words" verticalSpacing={3} heads={['Word', 'Events', 'Is']} last="Note">
      {actions.map((action) => (
        <Table.Tr key={action.id}>
          <Table.Td>
            <bdi>{action.word}</bdi>
          </Table.Td>
          <Table.Td ta="right">{action.events.toLocaleString('en-GB')}</Table.Td>
          <Table.Td>
            <NativeSelect
              size="xs"
              w={130}
              aria-label={`Kind of ${action.word}`}
              disabled={pending}
              value={action.settled ? action.kind : ''}
              onChange={(event) => settle(action, event.currentTarget.value)}
              data={[
                ...(action.settled ? [] : [{ value: '', label: 'not said yet', disabled: true }]),
                ...ACTION_KINDS.map((kind) => ({ value: kind, label: kind })),
              ]}
            />
          </Table.Td>
          <Table.Td className={classes.soft}>
            {action.derive_anew ? 'figures are being made anew …' : action.builtIn ? 'known' : ''}
          </Table.Td>
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
