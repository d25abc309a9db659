'use client';

import { Button, Table } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { forgetTheMapping } from '../actions';
import classes from '../set-up.module.css';

interface Remembered {
  source: string;
  kind: string;
  mapping: { columns: Record<string, string | null>; dates: string; timezone: string };
}

/** What is remembered of each source's files. */
export function MappingTable({ mappings }: { mappings: Remembered[] }) {
  const forget = async (one: Remembered) => {
    const result = await forgetTheMapping(one.source, one.kind);
    notifications.show(
      result.ok
        ? { title: 'Forgotten', message: 'The next file of this source asks again.' }
        : { title: 'It was not forgotten', message: result.says, color: 'red' },
    );
  };
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Remembered mappings">
      <Table fz={13} verticalSpacing={4}>
        <Table.Thead>
          <Table.Tr>
            {['Source', 'Kind', 'Columns', 'Dates', 'Time zone', ''].map((title) => (
              <Table.Th key={title} aria-label={title || 'Actions'}>
                {title}
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {mappings.map((one) => (
            <Table.Tr key={`${one.source} ${one.kind}`}>
              <Table.Td>{one.source}</Table.Td>
              <Table.Td>{one.kind}</Table.Td>
              <Table.Td>
                {Object.entries(one.mapping.columns)
                  .filter(([, to]) => to !== null)
                  .map(([from, to]) => `${from} = ${to}`)
                  .join(', ')}
              </Table.Td>
              <Table.Td>{one.mapping.dates.replace('_', ' ')}</Table.Td>
              <Table.Td>{one.mapping.timezone}</Table.Td>
              <Table.Td>
                <Button variant="default" size="compact-xs" onClick={() => void forget(one)}>
                  Forget
                </Button>
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
    </div>
  );
}
