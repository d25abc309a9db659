'use client';

import { NativeSelect, Table } from '@mantine/core';
import { sayCount } from '@/core/time/words';
import type { OfferedColumn, OfferedFile } from '@/server/imports/look-at-offered';
import { PlainTable } from '@/ui/plain-table';
import { useAction } from '../../../_frame/use-action';
import { chooseColumn, chooseItem } from '../actions';

const ROLES: readonly (readonly [role: OfferedColumn['role'], label: string])[] = [
  ['nothing', 'not used'],
  ['item column', 'an item or a session'],
  ['name', 'full name'],
  ['given_name', 'given name'],
  ['family_name', 'family name'],
  ['email', 'e-mail'],
  ['learner_id', 'learner’s id'],
  ['account', 'account'],
  ['group', 'group'],
  ['course', 'course'],
  ['last_access', 'last access'],
  ['status', 'status'],
  ['progress', 'progress, per cent'],
  ['minutes', 'time spent'],
  ['time', 'time'],
  ['action', 'action'],
  ['item', 'item’s name'],
  ['score', 'score'],
  ['points', 'out of'],
  ['done', 'done or not'],
  ['done_at', 'done on'],
  ['entered', 'came in'],
  ['left', 'left'],
  ['duration', 'how long'],
  ['session', 'session'],
  ['address', 'network address'],
  ['event_id', 'event’s id'],
  ['enrolled_on', 'first day'],
  ['submitted_at', 'handed in on'],
  ['role', 'learner or teacher'],
  ['mark', 'there or not'],
];

const WHY: Record<NonNullable<OfferedColumn['why']>, string> = {
  total: 'a total',
  'not understood': 'not understood',
  empty: 'empty',
  date: 'says when the one before it was done',
};

/** Why a column is not used; one that is used with another says how. */
const sayWhy = (label: string, why: keyof typeof WHY) => (why === 'date' ? WHY[why] : `${label}: ${WHY[why]}`);

/** What each column of a file is taken for; a choice shows its result at once. */
export function OfferedColumns({ file }: { file: OfferedFile }) {
  const { pending, run } = useAction();
  const roles = file.ownColumns
    ? [['nothing', 'not used'] as const, ...file.ownColumns.map((name) => [name, name] as const)]
    : ROLES;
  return (
    <details open={file.columns.length <= 8}>
      <summary>{sayCount(file.columns.length, 'column')}</summary>
      <PlainTable
        label={`Columns of ${file.name}`}
        heads={['Heading', 'Is', 'For example']}
        fz={12}
        verticalSpacing={2}
      >
        {file.columns.map((column) => (
          <Table.Tr key={column.index}>
            <Table.Td>
              <bdi>{column.heading}</bdi>
            </Table.Td>
            <Table.Td>
              <NativeSelect
                size="xs"
                miw={150}
                aria-label={`What ${column.heading} is`}
                key={column.role}
                defaultValue={column.role}
                disabled={pending}
                onChange={(event) => {
                  const role = event.currentTarget.value;
                  void run(() => chooseColumn(file.id, column.index, role), { failed: 'It was not changed' });
                }}
                data={roles.map(([value, label]) => ({
                  value,
                  label: value === 'nothing' && column.why ? sayWhy(label, column.why) : label,
                }))}
              />
            </Table.Td>
            <Table.Td>
              <bdi>{column.examples.join(' · ')}</bdi>
            </Table.Td>
          </Table.Tr>
        ))}
      </PlainTable>
    </details>
  );
}

/** Texts that no item of the course is called by: new ones, unless somebody says which they are. */
export function UnknownItems({ file: { id, name, choices, unknownItems, courseItems } }: { file: OfferedFile }) {
  const { pending, run } = useAction();
  const asChoice = (item: OfferedFile['courseItems'][number]) => ({ value: item.id, label: item.title });
  return (
    <PlainTable label={`Items of ${name}`} heads={['No item is called', 'Is']} fz={12} verticalSpacing={2}>
      {unknownItems.map(({ title, likely, said }) => (
        <Table.Tr key={title}>
          <Table.Td>
            <bdi>{title}</bdi>
          </Table.Td>
          <Table.Td>
            <NativeSelect
              size="xs"
              miw={150}
              aria-label={`Which item ${title} is`}
              key={said}
              defaultValue={said ?? ''}
              disabled={pending}
              onChange={(event) => {
                const item = event.currentTarget.value;
                void run(() => chooseItem(id, title, item), { failed: 'It was not changed' });
              }}
              data={[
                { value: '', label: choices.create ? 'a new item' : 'not known: its rows cannot be taken' },
                ...(likely.length > 0 ? [{ group: 'Likely', items: likely.map(asChoice) }] : []),
                {
                  group: 'Items of the course',
                  items: courseItems.filter((item) => !likely.some((one) => one.id === item.id)).map(asChoice),
                },
              ]}
            />
          </Table.Td>
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
