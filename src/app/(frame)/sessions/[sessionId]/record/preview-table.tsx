import { Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { sayCount, plural } from '@/core/time/words';
import type { Preview } from '@/workers/preview';
import classes from '../../../set-up/data/data.module.css';

/** The first rows as they would be taken; as they stand in the file while the headings do not do. */
export function PreviewTable({ preview }: { preview: Preview }) {
  const { heading, rows, taken, headingProblem } = preview;
  if (headingProblem !== null || taken.length === 0) {
    return <Plain heading={heading} rows={rows.slice(0, 5)} />;
  }
  const columns = [...new Set(taken.flatMap((row) => Object.keys(row.values ?? {})))];
  const wrong = taken.filter((row) => row.fault !== null).length;
  return (
    <>
      <p className={classes.soft}>
        The first {sayCount(taken.length, 'row')} as {plural(taken.length, 'it', 'they')} would be taken
        {wrong > 0 && `; ${wrong} would be rejected`}. Who and what a row names is looked up when it is brought in.
      </p>
      <PlainTable label="First rows as they would be taken" heads={columns} fz={12} verticalSpacing={2}>
        {taken.map((row, index) => (
          <Table.Tr key={index}>
            {row.fault ? (
              <Table.Td colSpan={Math.max(1, columns.length)} className={classes.fault}>
                rejected: {row.fault.field} {row.fault.reason} · <bdi>{rows[index].join(' | ')}</bdi>
              </Table.Td>
            ) : (
              columns.map((name) => (
                <Table.Td key={name}>
                  <bdi>{row.values![name]}</bdi>
                </Table.Td>
              ))
            )}
          </Table.Tr>
        ))}
      </PlainTable>
    </>
  );
}

function Plain({ heading, rows }: { heading: string[]; rows: string[][] }) {
  return (
    <PlainTable label="First rows of the file" heads={heading} mt="sm" fz={12} verticalSpacing={2}>
      {rows.map((cells, index) => (
        <Table.Tr key={index}>
          {cells.map((cell, place) => (
            <Table.Td key={place}>
              <bdi>{cell}</bdi>
            </Table.Td>
          ))}
        </Table.Tr>
      ))}
    </PlainTable>
  );
}
