import type { Metadata } from 'next';
import { isKnownAction } from '@/core/access/kinds';
import { sayInstant } from '@/core/time/words';
import { sayShape } from '@/server/imports/offered';
import { listActions, listMappings, listShapes } from '@/server/imports/reads';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { Refresher } from '../../../_frame/refresher';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { ActionTable } from './action-table';
import { MappingTable } from './mapping-table';
import { ShapeTable } from './shape-table';

export const metadata: Metadata = { title: 'Mapping' };

export default async function MappingPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime } = frame;
  const [actions, mappings, shapes] = await Promise.all([
    listActions(runtime),
    listMappings(runtime),
    listShapes(runtime),
  ]);
  const unsettled = actions.filter((action) => action.settled === 0).length;
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={actions.some((action) => action.derive_anew === 1) ? 1500 : null} />
      <div className={frameClasses.page}>
        <h1>Mapping</h1>
        <SetUpTabs />
        <section>
          <h2>Action words</h2>
          <p className={classes.soft}>
            Every source has its own words. <em>Looked</em>, <em>worked</em> and <em>talked</em> count for item use and
            time; <em>other</em> counts for last access and visits alone. A change has the figures made anew.{' '}
            {unsettled > 0 && <strong>{unsettled} nobody has said yet.</strong>}
          </p>
          {actions.length === 0 ? (
            <p>No access log has been brought in yet.</p>
          ) : (
            <ActionTable actions={actions.map((action) => ({ ...action, builtIn: isKnownAction(action.word) }))} />
          )}
        </section>
        <section className={classes.section}>
          <h2>Files</h2>
          {mappings.length === 0 && shapes.length === 0 && (
            <p>Nothing is remembered yet. What is settled of a file under Bring in data holds for the next ones.</p>
          )}
          {mappings.length > 0 && <MappingTable mappings={mappings} />}
          {shapes.length > 0 && (
            <ShapeTable
              shapes={shapes.map(({ source, shape, spec, usedAt }) => ({
                source,
                shape,
                headings: JSON.parse(shape) as string[],
                says: sayShape(spec),
                used: sayInstant(usedAt, runtime.zone, runtime.clock.now()),
              }))}
            />
          )}
        </section>
      </div>
    </>
  );
}
