import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { notFound } from 'next/navigation';
import { sayInstant, sayLength } from '@/core/time/words';
import { openSession } from '@/server/sessions/session';
import { rollChanges } from '@/server/sessions/reads';
import { planningChoices } from '@/server/sessions/planning-form';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { PlainTable } from '@/ui/plain-table';
import { SessionHead } from '../session-head';
import { Roll } from './roll';

export const metadata: Metadata = { title: 'Roll' };

/** Changes that are listed below a roll; the rest is in the history of changes. */
const MOST_CHANGES = 40;

interface Props {
  params: Promise<{ sessionId: string }>;
  searchParams: SearchParams;
}

export default async function RollPage({ params, searchParams }: Props) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const sessionId = decodeURIComponent((await params).sessionId);
  const opened = await orNotFound(openSession(runtime, viewer, sessionId));
  if (!opened.mayTake) notFound();
  const { clock, zone } = runtime;
  const now = clock.now();
  const { session, people, marks } = opened;
  const [{ instructors }, changes] = await Promise.all([
    opened.mayPlan ? planningChoices(runtime, viewer) : { instructors: [] },
    rollChanges(runtime, viewer, session.id, MOST_CHANGES),
  ]);
  const label = (code: string | null) =>
    code === null ? 'no mark' : (marks.find((mark) => mark.code === code)?.label ?? code);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionHead opened={opened} instructors={instructors} now={now} zone={zone} />
        {people.length === 0 ? (
          <p>Nobody was enrolled at its start, so there is nobody to mark.</p>
        ) : session.cancelled === 1 ? null : (
          <Roll
            key={session.session_id}
            sessionId={session.session_id}
            staffId={viewer.staffId}
            taken={session.roll_at !== null}
            marks={marks
              .filter(({ ended_at }) => ended_at === null)
              .map(({ code, label, credit, counts }) => ({ code, label, credit, counts: counts === 1 }))}
            people={people.map((one) => ({
              learnerId: one.learner_id,
              name: one.name,
              group: one.is_guest ? one.group : null,
              mark: one.mark,
              remark: one.remark,
              change: one.change,
              by: one.marked_by,
              at: one.marked_at,
              hint: [
                one.checked_in_at === null
                  ? null
                  : `checked in ${sayInstant(one.checked_in_at, zone, now).split(', ')[1]}`,
                one.suggested && (one.presence ? `${one.suggested.mark}, ${sayLength(one.presence.ms)}` : 'not seen'),
              ]
                .filter(Boolean)
                .join(' · '),
            }))}
            zone={zone}
            now={now}
          />
        )}
        {changes.length > 0 && (
          <details>
            <summary>
              Every change of a mark ({changes.length === MOST_CHANGES ? `the last ${MOST_CHANGES}` : changes.length})
            </summary>
            <PlainTable label="Changes of marks" heads={['When', 'Learner', 'From', 'To', 'Remark', 'By']}>
              {changes.map((one) => (
                <TableTr key={one.id}>
                  <TableTd>{sayInstant(one.at, zone, now)}</TableTd>
                  <TableTd>
                    <bdi>{one.name}</bdi>
                  </TableTd>
                  <TableTd>{label(one.old_mark)}</TableTd>
                  <TableTd>{label(one.mark)}</TableTd>
                  <TableTd>{one.remark}</TableTd>
                  <TableTd>
                    {one.by ?? { file: 'a file', check_in: 'checked in', hand: '', suggested: '' }[one.source]}
                  </TableTd>
                </TableTr>
              ))}
            </PlainTable>
          </details>
        )}
      </div>
    </>
  );
}
