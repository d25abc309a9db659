import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { sayInstant } from '@/core/time/words';
import { erasures, type ErasureState } from '@/server/privacy/erasing';
import { PlainTable } from '@/ui/plain-table';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';

export const metadata: Metadata = { title: 'Erasures' };

/** Backups named in a row. */
const SHOWN = 5;

const STATES: Record<ErasureState, string> = { waiting: 'can be taken back', taken_back: 'taken back', done: 'erased' };

/** Who is to be erased, and who was. */
export default async function ErasuresPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { zone } = runtime;
  const now = runtime.clock.now();
  const rows = await erasures(runtime, viewer);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Erasures</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          Asked for on a learner’s page, under Their data. After 14 days everything that names them goes for good; a
          backup made before then still holds them: those made with <code>lee backup</code> are named here, others are
          not known. Whoever is put back by one is erased again.
        </p>
        {rows.length === 0 ? (
          <p>Nobody’s erasure has been asked for.</p>
        ) : (
          <PlainTable
            label="Erasures"
            heads={['Asked for', 'Whose', 'By', 'Why', 'On', 'State', 'Backups that hold them']}
          >
            {rows.map((row) => (
              <TableTr key={row.id}>
                <TableTd>{sayInstant(row.asked_at, zone, now)}</TableTd>
                <TableTd>
                  {row.state === 'done' ? row.name : <PersonLink learnerId={row.learner_id} name={row.name} />}
                </TableTd>
                <TableTd>
                  <bdi>{row.by ?? 'Lee Shore'}</bdi>
                </TableTd>
                <TableTd>
                  <bdi>{row.reason}</bdi>
                </TableTd>
                <TableTd>{sayInstant(row.done_at ?? row.until, zone, now)}</TableTd>
                <TableTd>{STATES[row.state]}</TableTd>
                <TableTd>
                  {row.backups.slice(0, SHOWN).map(({ file, at }) => (
                    <div key={file}>
                      <bdi>{file}</bdi> <span className={classes.soft}>{sayInstant(at, zone, now)}</span>
                    </div>
                  ))}
                  {row.backups.length > SHOWN && `and ${row.backups.length - SHOWN} more`}
                  {row.backups.length === 0 && row.state !== 'taken_back' && 'none noted'}
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
        )}
      </div>
    </>
  );
}
