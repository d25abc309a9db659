import { Table } from '@mantine/core';
import { sayTime } from '@/core/time/words';

interface Event {
  at: number;
  course: string;
  item: string | null;
  item_id: string | null;
  action: string;
  kind: string;
  address: string | null;
}

/** The events of one visit, in time order: the rows behind the figures. */
export function VisitEvents({ events, zone, total }: { events: Event[]; zone: string; total: number }) {
  return (
    <>
      <Table withRowBorders={false} verticalSpacing={2} fz={12} layout="auto">
        <Table.Thead>
          <Table.Tr>
            {['Time', 'Course', 'Item', 'Action', 'Address'].map((title) => (
              <Table.Th key={title}>{title}</Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {events.map((event, index) => (
            <Table.Tr key={index}>
              <Table.Td>{sayTime(event.at, zone)}</Table.Td>
              <Table.Td>{event.course}</Table.Td>
              <Table.Td>
                <bdi>{event.item ?? '–'}</bdi>
              </Table.Td>
              <Table.Td>
                <bdi>{event.action.replaceAll('_', ' ')}</bdi> ({event.kind})
              </Table.Td>
              <Table.Td>
                <bdi>{event.address ?? '–'}</bdi>
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {events.length < total && (
        <p>
          {events.length} of {total} events shown.
        </p>
      )}
    </>
  );
}
