import type { Metadata } from 'next';
import { sayCount, sayInstant } from '@/core/time/words';
import { dropped, provisional } from '@/server/imports/provisional';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { DroppedList, ProvisionalList } from './provisional-list';

export const metadata: Metadata = { title: 'Provisional' };

export default async function ProvisionalPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const [rows, gone] = await Promise.all([provisional(runtime, viewer), dropped(runtime, viewer)]);
  const now = runtime.clock.now();
  // Ids and names in files are people's own words.
  const isHidden = viewer.standInKey !== null;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Provisional</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          Made from files that named them before any outline or roster did. A later outline or roster makes them whole
          by itself, by id, e-mail address, name or title. Confirm what is right, make it one with what it really is, or
          drop it.
        </p>
        {rows.length === 0 && <p>Nothing is provisional: outline and roster tell of everybody and everything.</p>}
        {isHidden && rows.length > 0 && (
          <p>{sayCount(rows.length, 'thing')} are provisional. Show names to see them.</p>
        )}
        {!isHidden &&
          (['course', 'learner', 'item'] as const).map((kind) => {
            const own = rows.filter((row) => row.kind === kind);
            if (own.length === 0) return null;
            return (
              <section key={kind} className={classes.section}>
                <h2>{sayCount(own.length, kind)}</h2>
                <ProvisionalList kind={kind} rows={own} />
              </section>
            );
          })}
        {!isHidden && gone.length > 0 && (
          <section className={classes.section}>
            <h2>Dropped</h2>
            <DroppedList rows={gone.map((row) => ({ ...row, when: sayInstant(row.at, runtime.zone, now) }))} />
          </section>
        )}
      </div>
    </>
  );
}
