'use client';

import { Table } from '@mantine/core';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import classes from './course-page.module.css';

// The charts' library comes when one is drawn: the box is there, and the figures stand in the table.
const PacePlot = dynamic(() => import('./pace-plot').then((module) => module.PacePlot), { ssr: false });

interface Props {
  points: { label: string; planned: number; done: number | null }[];
  required: number;
  asTable: boolean;
  switchHref: string;
}

/** Required items planned and done at each week's end. */
export function PaceChart({ points, required, asTable, switchHref }: Props) {
  if (points.length === 0) return <p className={classes.soft}>Nothing is required, so there is no pace.</p>;
  const now = points.findLast(({ done }) => done !== null);
  return (
    <figure className={classes.chart}>
      <figcaption className={classes.soft}>
        Required items planned and done by each week’s end, of {required}.{' '}
        <Link scroll={false} href={switchHref}>
          {asTable ? 'Show as chart' : 'Show as table'}
        </Link>
      </figcaption>
      {asTable ? (
        <div className={classes.tableBox} tabIndex={0} role="group" aria-label="Pace as a table">
          <Table verticalSpacing={2} withRowBorders={false}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Week to</Table.Th>
                <Table.Th ta="right">Planned</Table.Th>
                <Table.Th ta="right">Done</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {points.map(({ label, planned, done }) => (
                <Table.Tr key={label}>
                  <Table.Td>{label}</Table.Td>
                  <Table.Td ta="right">{planned}</Table.Td>
                  <Table.Td ta="right">{done ?? ''}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      ) : (
        <div
          className={classes.chartBox}
          role="img"
          aria-label={`Pace: ${now ? `${now.done} done and ${now.planned} planned by ${now.label}` : 'nothing yet'}. The table has each week’s figures.`}
        >
          <PacePlot points={points} required={required} />
        </div>
      )}
      {!asTable && (
        <div className={classes.legend} aria-hidden="true">
          <span>
            <i data-line="done" /> done
          </span>
          <span>
            <i data-line="planned" /> planned
          </span>
        </div>
      )}
    </figure>
  );
}
