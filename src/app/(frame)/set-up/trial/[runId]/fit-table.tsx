import { Alert, TableTd, TableTr } from '@mantine/core';
import Link from 'next/link';
import { reasonTitle } from '@/core/drift/model';
import type { KeptFit } from '@/server/trial/runs';
import { PlainTable } from '@/ui/plain-table';
import classes from '../trial.module.css';

/** Fitted weights beside those there are by default, how sure it is, and the way to take them. */
export function FitTable({ fit, runId }: { fit: KeptFit['fit']; runId: number }) {
  const { says, proposed, weights, auc } = fit;
  // “Proposed: …”, “Not proposed: …” or “Refused: …”.
  const [title, why] = [says.slice(0, says.indexOf(':')), says.slice(says.indexOf(':') + 2)];
  return (
    <section className={classes.part}>
      <Alert title={title} color={proposed ? undefined : 'gray'} mb="sm">
        {why[0].toUpperCase() + why.slice(1)}
      </Alert>
      {auc && (
        <>
          <p className={classes.soft}>
            Area by week on learners left out of the fit: {auc.fitted.toFixed(3)} beside {auc.defaults.toFixed(3)} by
            the defaults. Below, each learner is listed by weights that were fitted without them. Where the defaults fit
            a place, a fit brings little; where a kind of evidence means nothing there, it brings more.
          </p>
          <PlainTable label="Fitted weights" heads={['Factor', 'By default', 'Fitted']} verticalSpacing={2} w="auto">
            {weights.map(({ factor, default: usual, fitted }) => (
              <TableTr key={factor}>
                <TableTd>{reasonTitle(factor)}</TableTd>
                <TableTd>{usual}</TableTd>
                <TableTd>{fitted ?? '–'}</TableTd>
              </TableTr>
            ))}
          </PlainTable>
        </>
      )}
      {proposed && (
        <p>
          <Link href={`/set-up/weights?fit=${runId}`}>
            Look at whom these weights would move today, and take them or not
          </Link>
        </p>
      )}
    </section>
  );
}
