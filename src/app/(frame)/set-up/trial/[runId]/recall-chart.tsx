'use client';

import { Table } from '@mantine/core';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import type { Curve } from '@/core/trial/curve';
import classes from '../../../courses/courses.module.css';
import { sayShare } from './say';

// The charts' library comes when one is drawn: the box is there, and the figures stand in the table.
const RecallPlot = dynamic(() => import('./recall-plot').then((module) => module.RecallPlot), { ssr: false });

/** Told apart by dashes too, so also without colour. */
const LINES = [
  { stroke: 'var(--water)', strokeWidth: 2.5 },
  { stroke: 'var(--chart-3)', strokeWidth: 2, strokeDasharray: '7 3' },
  { stroke: 'var(--chart-4)', strokeWidth: 2, strokeDasharray: '2 3' },
  { stroke: 'var(--chart-5)', strokeWidth: 2, strokeDasharray: '10 3 2 3' },
] as const;
const QUIET = { stroke: 'var(--ink)', strokeWidth: 1.5 };
const CHANCE = { stroke: 'var(--muted)', strokeWidth: 1.5, strokeDasharray: '4 4' };

const share = (value: number | null) => (value === null ? null : Math.round(1000 * value) / 10);

/** Leavers found in time against people a week in each course; the first rule with its interval. */
export function RecallChart({ curve, titles }: { curve: Curve; titles: string[] }) {
  const [asTable, setAsTable] = useState(false);
  const [first] = curve.rules;
  const names = [...titles, 'quiet 7 or never', 'by chance'];
  const styles = [...titles.map((_, index) => LINES[index % LINES.length]), QUIET, CHANCE];
  const data = curve.people.map((people, index) => ({
    people,
    interval: [share(first[index].low), share(first[index].high)],
    ...Object.fromEntries(titles.map((title, rule) => [title, share(curve.rules[rule][index].value)])),
    'quiet 7 or never': share(curve.quiet[index].value),
    'by chance': share(curve.chance[index]),
  }));
  return (
    <figure className={classes.chart}>
      <figcaption className={classes.chartHead}>
        <strong>Leavers found in time, by people a week in each course</strong>
        <span className={classes.choices}>
          <button type="button" className={classes.switch} onClick={() => setAsTable(!asTable)}>
            {asTable ? 'Show as chart' : 'Show as table'}
          </button>
        </span>
      </figcaption>
      {asTable ? (
        <div className={classes.scroll} tabIndex={0} role="group" aria-label="Leavers found in time as a table">
          <Table verticalSpacing={2} withRowBorders={false}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>People a week</Table.Th>
                {names.map((name) => (
                  <Table.Th key={name}>{name}</Table.Th>
                ))}
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {curve.people.map((people, index) => (
                <Table.Tr key={people}>
                  <Table.Td>{people}</Table.Td>
                  {curve.rules.map((line, rule) => (
                    <Table.Td key={titles[rule]}>{sayShare(line[index])}</Table.Td>
                  ))}
                  <Table.Td>{sayShare(curve.quiet[index])}</Table.Td>
                  <Table.Td>{sayShare({ value: curve.chance[index], low: null, high: null })}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      ) : (
        <>
          <div className={classes.legend} aria-hidden="true">
            {names.map((name, index) => (
              <span key={name}>
                <svg width="26" height="8" viewBox="0 0 26 8">
                  <path d="M0 4h26" fill="none" {...styles[index]} />
                </svg>{' '}
                {name}
              </span>
            ))}
          </div>
          <div
            className={classes.tallChart}
            role="img"
            aria-label={`Leavers found in time at ${curve.people[0]} to ${curve.people.at(-1)} people a week. The table has the figures.`}
          >
            <RecallPlot data={data} people={curve.people} title={titles[0]} names={names} styles={styles} />
          </div>
        </>
      )}
    </figure>
  );
}
