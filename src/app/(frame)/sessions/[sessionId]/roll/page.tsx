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
            people={people.map((person) => ({
              learnerId: person.learner_id,
              name: person.name,
              group: person.is_guest ? person.group : null,
              mark: person.mark,
              remark: person.remark,
              change: person.change,
              by: person.marked_by,
              at: person.marked_at,
              hint: [
                person.checked_in_at === null
                  ? null
                  : `checked in ${sayInstant(person.checked_in_at, zone, now).split(', ')[1]}`,
                person.suggested &&
                  (person.presence ? `${person.suggested.mark}, ${sayLength(person.presence.ms)}` : 'not seen'),
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
              {changes.map((change) => (
                <TableTr key={change.id}>
                  <TableTd>{sayInstant(change.at, zone, now)}</TableTd>
                  <TableTd>
                    <bdi>{change.name}</bdi>
                  </TableTd>
                  <TableTd>{label(change.old_mark)}</TableTd>
                  <TableTd>{label(change.mark)}</TableTd>
                  <TableTd>{change.remark}</TableTd>
                  <TableTd>
                    {change.by ?? { file: 'a file', check_in: 'checked in', hand: '', suggested: '' }[change.source]}
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
