'use client';

import { Button, Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { useAction } from '../../../_frame/use-action';
import { removeMapping } from '../actions';

interface Remembered {
  source: string;
  kind: string;
  mapping: { columns: Record<string, string | null>; dates: string; timezone: string };
}

/** What is remembered of each source's files. */
export function MappingTable({ mappings }: { mappings: Remembered[] }) {
  const { pending, run } = useAction();
  const forget = (one: Remembered) =>
    run(() => removeMapping(one.source, one.kind), {
      done: 'Forgotten: the next file of this source asks again',
      failed: 'It was not forgotten',
    });
  return (
    <PlainTable label="Remembered mappings" heads={['Source', 'Kind', 'Columns', 'Dates', 'Time zone']} last="Actions">
      {mappings.map((mapping) => (
        <Table.Tr key={`${mapping.source} ${mapping.kind}`}>
          <Table.Td>{mapping.source}</Table.Td>
          <Table.Td>{mapping.kind}</Table.Td>
          <Table.Td>
            {Object.entries(mapping.mapping.columns)
              .filter(([, to]) => to !== null)
              .map(([from, to]) => `${from} = ${to}`)
              .join(', ')}
          </Table.Td>
          <Table.Td>{mapping.mapping.dates.replace('_', ' ')}</Table.Td>
          <Table.Td>{mapping.mapping.timezone}</Table.Td>
          <Table.Td>
            <Button variant="default" size="compact-xs" loading={pending} onClick={() => forget(mapping)}>
              Forget
            </Button>
          </Table.Td>
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
