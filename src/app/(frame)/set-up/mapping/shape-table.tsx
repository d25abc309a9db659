'use client';

import { Button, Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { useAction } from '../../../_frame/use-action';
import { forgetShape } from '../actions';

interface Shape {
  source: string;
  shape: string;
  headings: string[];
  /** What was said of it, in words. */
  says: string;
  used: string;
}

/** Headings shown of a file. */
const SHOWN = 6;

/** Files that were settled on the page: the next of the same columns is taken as they were. */
export function ShapeTable({ shapes }: { shapes: Shape[] }) {
  const { pending, run } = useAction();
  return (
    <PlainTable label="Settled files" heads={['Source', 'Columns', 'Read as', 'Last used']} last="Actions">
      {shapes.map(({ source, shape, headings, says, used }) => (
        <Table.Tr key={`${source} ${shape}`}>
          <Table.Td>{source}</Table.Td>
          <Table.Td>
            <bdi>
              {headings.slice(0, SHOWN).join(', ')}
              {headings.length > SHOWN && ` and ${headings.length - SHOWN} more`}
            </bdi>
          </Table.Td>
          <Table.Td>
            <bdi>{says}</bdi>
          </Table.Td>
          <Table.Td>{used}</Table.Td>
          <Table.Td>
            <Button
              variant="default"
              size="compact-xs"
              loading={pending}
              onClick={() =>
                run(() => forgetShape(source, shape), { done: 'Forgotten: the next such file is looked at anew' })
              }
            >
              Forget
            </Button>
          </Table.Td>
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
