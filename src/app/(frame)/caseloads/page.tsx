import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount } from '@/core/time/words';
import { caseloadsOf, colleaguesFor, type CaseloadShown } from '@/server/people/caseloads';
import { LEARNERS } from '@/server/people/learner-list';
import { sentencesOf } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import { linkTo } from '../../_list/list-link';
import { CaseloadButtons, NewCaseload } from './caseload-buttons';
import classes from './caseloads.module.css';

export const metadata: Metadata = { title: 'Caseloads' };

/** One's own caseloads, and those of colleagues that are shared with one. */
export default async function CaseloadsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const [caseloads, colleagues] = await Promise.all([caseloadsOf(runtime, viewer), colleaguesFor(runtime, viewer)]);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Caseloads</h1>
          <NewCaseload rule="" label="New caseload" />
        </div>
        <p className={classes.soft}>
          A caseload of your own goes over all courses: a club, a team, an employer’s people. Choose it in the bar, and
          every screen shows its learners.
        </p>
        {caseloads.length === 0 ? (
          <p>
            None yet. Narrow <Link href="/learners">Learners</Link> by any filters and press <em>Caseload</em> above the
            list, or select some learners anywhere and press it there.
          </p>
        ) : (
          <PlainTable label="Caseloads" heads={['Caseload', 'Learners', 'Who is in it', 'Whose']} last="Actions">
            {caseloads.map((caseload) => (
              <TableTr key={caseload.id}>
                <TableTd>
                  <Link href={linkTo('/watch', { in: `caseload:${caseload.id}` })}>
                    <bdi>{caseload.name}</bdi>
                  </Link>
                </TableTd>
                <TableTd>
                  <Link href={linkTo('/learners', { in: `caseload:${caseload.id}` })}>{caseload.learners}</Link>
                </TableTd>
                <TableTd>
                  {sayRule(caseload)}
                  {caseload.fault && <div className={classes.fault}>{caseload.fault}</div>}
                </TableTd>
                <TableTd>{sayWhose(caseload)}</TableTd>
                <TableTd>
                  {caseload.isOwn && (
                    <CaseloadButtons
                      id={caseload.id}
                      name={caseload.name}
                      shared={caseload.shared}
                      colleagues={colleagues}
                    />
                  )}
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
        )}
      </div>
    </>
  );
}

/** What the rule says, with how many were put in or left out by hand. */
function sayRule({ rule, byHand }: CaseloadShown): string {
  const filters = rule === null ? [] : sentencesOf(LEARNERS, rule).map(({ says }) => says);
  const parts = [
    rule === null ? '' : filters.join(' · ') || 'everybody',
    byHand.in > 0 ? `${sayCount(byHand.in, 'learner')} put in by hand` : '',
    byHand.out > 0 ? `${sayCount(byHand.out, 'learner')} left out` : '',
  ];
  return parts.filter(Boolean).join('; ') || 'nobody yet';
}

function sayWhose({ isOwn, owner, shared }: CaseloadShown): string {
  if (!isOwn) return `${owner ?? 'a program'}’s, shared with you`;
  return shared.length === 0 ? 'yours' : `yours, shared with ${shared.map(({ name }) => name).join(', ')}`;
}
