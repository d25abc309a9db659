import { TableTd, TableTr } from '@mantine/core';
import { bandWord } from '@/core/drift/bands';
import type { KeptTrial } from '@/server/trial/result';
import { PlainTable } from '@/ui/plain-table';
import classes from '../trial.module.css';

const HEADS = ['Drift', 'Of the course', 'Learners who stood so', 'Who left soon after', 'Left within four weeks'];

/** What became of people who stood so, from these courses alone. */
export function ChanceTable({ chances }: { chances: KeptTrial['chances'] }) {
  return (
    <section className={classes.part}>
      <h2>What became of people who stood so</h2>
      <p className={classes.soft}>
        In these courses and by the weights as they are set, week by week; without the weeks after somebody was tried.
        It is a share of the past, not what will become of anybody. Under ten leavers nothing is said.
      </p>
      <PlainTable label="What became of people who stood so" heads={HEADS} verticalSpacing={2}>
        {chances.map(({ band, third, learners, leavers, says }) => (
          <TableTr key={`${band} ${third}`}>
            <TableTd>{bandWord(band)}</TableTd>
            <TableTd>{third}</TableTd>
            <TableTd>{learners}</TableTd>
            <TableTd>{leavers}</TableTd>
            <TableTd>{says ?? 'too few to tell'}</TableTd>
          </TableTr>
        ))}
      </PlainTable>
    </section>
  );
}
