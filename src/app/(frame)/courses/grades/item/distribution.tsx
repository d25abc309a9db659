'use client';

import { Table } from '@mantine/core';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import { sayCount } from '@/core/time/words';
import classes from '../../courses.module.css';

// The charts' library comes when one is drawn: the box is there, and the figures stand in the table.
const DistributionPlot = dynamic(() => import('./distribution-plot').then((module) => module.DistributionPlot), {
  ssr: false,
});

interface Props {
  /** Learners with a score in each tenth. */
  tenths: number[];
  asTable: boolean;
  switchHref: string;
}

const label = (index: number) => (index === 9 ? '90 % or more' : `${index * 10}–${index * 10 + 9} %`);

/** How the scores of an item are spread. */
export function Distribution({ tenths, asTable, switchHref }: Props) {
  const data = tenths.map((learners, index) => ({ label: label(index), learners }));
  const total = tenths.reduce((sum, count) => sum + count, 0);
  return (
    <figure className={classes.chart}>
      <figcaption className={classes.chartHead}>
        <strong>Learners by score</strong>
        <span className={classes.choices}>
          <Link scroll={false} href={switchHref}>
            {asTable ? 'Show as chart' : 'Show as table'}
          </Link>
        </span>
      </figcaption>
      {asTable ? (
        <div className={classes.tableBox} tabIndex={0} role="group" aria-label="Learners by score as a table">
          <Table verticalSpacing={2} withRowBorders={false}>
            <Table.Tbody>
              {data.map(({ label: of, learners }) => (
                <Table.Tr key={of}>
                  <Table.Td>{of}</Table.Td>
                  <Table.Td ta="right">{learners}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      ) : (
        <div
          className={classes.chartBox}
          role="img"
          aria-label={`Learners by score, ${sayCount(total, 'learner')}. The table has the figures.`}
        >
          <DistributionPlot data={data} />
        </div>
      )}
    </figure>
  );
}
