'use client';

import { Alert, NativeSelect, Radio, Group, Table } from '@mantine/core';
import { foldHeading } from '@/core/imports/heading-name';
import { DATE_ORDERS, type DateOrder, type Mapping } from '@/core/imports/mapping';
import classes from '../../../set-up/data/data.module.css';
import '@mantine/core/styles/RadioIndicator.layer.css';
import '@mantine/core/styles/Radio.layer.css';

const ORDERS: Record<DateOrder, string> = {
  iso: 'year first, as 2026-11-24',
  day_first: 'day first, as 24/11/2026',
  month_first: 'month first, as 11/24/2026',
};

interface Props {
  heading: string[];
  rows: string[][];
  /** Our columns. */
  columns: string[];
  mapping: Mapping;
  /** What does not fit, in words. */
  problem: string | null;
  onChange: (mapping: Mapping) => void;
}

/** Which of the file's columns is which of ours, with what stands in it; remembered for the source. */
export function MappingForm({ heading, rows, columns, mapping, problem, onChange }: Props) {
  const samples = (index: number) =>
    [...new Set(rows.map((cells) => (cells[index] ?? '').trim()).filter(Boolean))].slice(0, 3).join(' · ');
  return (
    <section aria-label="Which column is what" className={classes.mapping}>
      <h2>Which column is what</h2>
      <p className={classes.soft}>
        Proposed by heading and by content. What you settle here is remembered for the source.
      </p>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Columns of the file">
        <Table verticalSpacing={3}>
          <Table.Thead>
            <Table.Tr>
              <Table.Th>Column of the file</Table.Th>
              <Table.Th>holds</Table.Th>
              <Table.Th>is</Table.Th>
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {heading.map((title, index) => (
              <Table.Tr key={index}>
                <Table.Td>
                  <bdi>{title}</bdi>
                </Table.Td>
                <Table.Td className={classes.soft}>
                  <bdi>{samples(index)}</bdi>
                </Table.Td>
                <Table.Td>
                  <NativeSelect
                    size="xs"
                    aria-label={`${title} is`}
                    value={mapping.columns[foldHeading(title)] ?? ''}
                    onChange={(event) =>
                      onChange({
                        ...mapping,
                        columns: { ...mapping.columns, [foldHeading(title)]: event.currentTarget.value || null },
                      })
                    }
                    data={[{ value: '', label: 'not used' }, ...columns]}
                  />
                </Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </div>
      <Radio.Group
        label="Dates are written"
        value={mapping.dates ?? ''}
        error={mapping.dates === undefined ? 'These dates could be read either way. Say which it is.' : undefined}
        onChange={(dates) => onChange({ ...mapping, dates: dates as DateOrder })}
        mt="sm"
      >
        <Group gap="md" mt={4}>
          {DATE_ORDERS.map((order) => (
            <Radio key={order} size="xs" value={order} label={ORDERS[order]} />
          ))}
        </Group>
      </Radio.Group>
      {problem && (
        <Alert color="red" mt="sm" role="alert">
          {problem}
        </Alert>
      )}
    </section>
  );
}
