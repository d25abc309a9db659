import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { columnNames } from '@/core/imports/kinds';
import { listMappings } from '@/server/imports/reads';
import { openSession } from '@/server/sessions/session';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { SessionHead } from '../session-head';
import { BringInRecord } from './bring-in-record';

export const metadata: Metadata = { title: 'Record of a meeting' };

interface Props {
  params: Promise<{ sessionId: string }>;
  searchParams: SearchParams;
}

/** Bringing in one session's record, for whoever takes its roll. */
export default async function RecordPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const sessionId = decodeURIComponent((await params).sessionId);
  const opened = await orNotFound(openSession(runtime, viewer, sessionId));
  if (!opened.mayTake) notFound();
  const mappings = await listMappings(runtime);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionHead opened={opened} instructors={[]} now={runtime.clock.now()} zone={runtime.zone} />
        <p>
          The record that a meeting writes: who came and went, a row a stay. Its headings are asked for once and
          remembered; the same record again adds nothing twice.
        </p>
        <BringInRecord
          sessionId={opened.session.session_id}
          columns={columnNames('presence')}
          zone={runtime.zone}
          remembered={mappings.filter(({ kind }) => kind === 'presence')}
        />
      </div>
    </>
  );
}
