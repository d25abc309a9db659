import { TableTd, TableTr } from '@mantine/core';
import { sayCount } from '@/core/time/words';
import type { KeptTrial } from '@/server/trial/result';
import { PlainTable } from '@/ui/plain-table';
import classes from '../trial.module.css';
import { sayLead, sayRatio, sayShare, sayTrial } from './say';

const HEADS = ['Rule', 'Leavers found in time', 'Listed who did leave', 'Lead', 'People a week', 'Beside quiet 7'];

/** What each rule came to, beside quiet for seven days and beside chance, each with its interval. */
export function MeasuresTable({ trials }: { trials: KeptTrial['trials'] }) {
  const [first] = trials;
  const rest = [
    { title: 'quiet 7 days or more, or never', figures: first.quiet },
    { title: 'lists by chance', figures: first.chance },
  ];
  const people = (count: number | null) => (count === null ? '–' : count.toFixed(1));
  return (
    <section className={classes.part}>
      <h2>
        {sayCount(first.learners, 'learner')}, {sayCount(first.leavers, 'leaver')}
      </h2>
      {sayTrial(first) && <p className={classes.sentence}>{sayTrial(first)}</p>}
      <p className={classes.soft}>
        {first.courses.join(', ')}. Found in time: listed between 28 days before their last activity and 7 after it.{' '}
        {first.never_came > 0 &&
          `${first.never_came} of those who left never came: they stand on a list of their own. `}
        In brackets the middle 90 % when learners are drawn again; where two of them overlap, the rules may be as good
        as each other.
      </p>
      {first.recall !== null && (
        <PlainTable label="What each rule came to" heads={HEADS}>
          {trials.map(({ title, recall, precision, lead_days, per_week, recall_beside_quiet }) => (
            <TableTr key={title}>
              <TableTd>{title}</TableTd>
              <TableTd>{sayShare(recall)}</TableTd>
              <TableTd>{sayShare(precision)}</TableTd>
              <TableTd>{sayLead(lead_days)}</TableTd>
              <TableTd>{people(per_week)}</TableTd>
              <TableTd>{sayRatio(recall_beside_quiet)}</TableTd>
            </TableTr>
          ))}
          {rest.map(({ title, figures }) => (
            <TableTr key={title}>
              <TableTd>{title}</TableTd>
              <TableTd>{sayShare(figures.recall)}</TableTd>
              <TableTd>{sayShare(figures.precision)}</TableTd>
              <TableTd>{sayLead(figures.lead_days)}</TableTd>
              <TableTd>{people(figures.per_week)}</TableTd>
              <TableTd>{figures === first.quiet ? '1' : '–'}</TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
    </section>
  );
}
