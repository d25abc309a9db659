import { Table, TableTbody, TableTd, TableTr } from '@mantine/core';
import { sayTime } from '@/core/time/words';
import { Headings } from '@/ui/headings';

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
        <Headings of={['Time', 'Course', 'Item', 'Action', 'Address']} />
        <TableTbody>
          {events.map((event, index) => (
            <TableTr key={index}>
              <TableTd>{sayTime(event.at, zone)}</TableTd>
              <TableTd>{event.course}</TableTd>
              <TableTd>
                <bdi>{event.item ?? '–'}</bdi>
              </TableTd>
              <TableTd>
                <bdi>{event.action.replaceAll('_', ' ')}</bdi> ({event.kind})
              </TableTd>
              <TableTd>
                <bdi>{event.address ?? '–'}</bdi>
              </TableTd>
            </TableTr>
          ))}
        </TableTbody>
      </Table>
      {events.length < total && (
        <p>
          {events.length} of {total} events shown.
        </p>
      )}
    </>
  );
}
