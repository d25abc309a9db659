import { TableTd, TableTr } from '@mantine/core';
import type { KeptTrial } from '@/server/trial/result';
import { PlainTable } from '@/ui/plain-table';
import classes from '../trial.module.css';
import { sayShare } from './say';

const HEADS = ['', 'Learners', 'Leavers', 'Leavers found in time', 'Listed, but stayed', ''];

/** For whom a rule works worse: recall and false alarms of each part. */
export function SubgroupTables({ parts, title }: { parts: KeptTrial['parts']; title: string }) {
  return (
    <section className={classes.part}>
      <h2>For whom it works worse</h2>
      <p className={classes.soft}>
        Of {title}. Nothing in drift uses any of these: this shows whether it is fair all the same. Under ten leavers,
        or ten who stayed, a part tells nothing.
      </p>
      {parts.map(({ by, parts: own }) => (
        <div key={by}>
          <h3>By {by}</h3>
          <PlainTable label={`By ${by}`} heads={HEADS} verticalSpacing={2}>
            {own.map(({ name, learners, leavers, recall, falseAlarms, findsFewer, alarmsMore }) => (
              <TableTr key={name}>
                <TableTd>{name}</TableTd>
                <TableTd>{learners}</TableTd>
                <TableTd>{leavers}</TableTd>
                <TableTd>{recall === null ? 'too few to tell' : sayShare(recall)}</TableTd>
                <TableTd>{falseAlarms === null ? 'too few to tell' : sayShare(falseAlarms)}</TableTd>
                <TableTd className={classes.worse}>
                  {[findsFewer && 'finds fewer', alarmsMore && 'lists more who stayed'].filter(Boolean).join(', ')}
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
        </div>
      ))}
    </section>
  );
}
