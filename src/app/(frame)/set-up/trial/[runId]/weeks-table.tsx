import { TableTd, TableTr } from '@mantine/core';
import type { KeptTrial } from '@/server/trial/result';
import { PlainTable } from '@/ui/plain-table';
import classes from '../trial.module.css';
import { sayRatio } from './say';

/** How well each rule tells leavers from others, week by week. */
export function WeeksTable({ trials }: { trials: KeptTrial['trials'] }) {
  const [first] = trials;
  const heads = ['Week', 'Leaving then', ...trials.map(({ title }) => title), 'quiet 7'];
  return (
    <section className={classes.part}>
      <h2>Week by week</h2>
      <p className={classes.soft}>
        How often somebody who leaves within four weeks stands before somebody who does not (the area under the ROC
        curve): 0.5 is chance, 1 is always. Quiet is ranked by its days.
      </p>
      <PlainTable label="Week by week" heads={heads} verticalSpacing={2}>
        {first.auc.map(({ week, leavers, quiet }, index) => (
          <TableTr key={week}>
            <TableTd>{week}</TableTd>
            <TableTd>{leavers}</TableTd>
            {trials.map(({ title, auc }) => (
              <TableTd key={title}>{sayRatio(auc[index])}</TableTd>
            ))}
            <TableTd>{sayRatio(quiet)}</TableTd>
          </TableTr>
        ))}
      </PlainTable>
    </section>
  );
}
