import type { Metadata } from 'next';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { coursesWithGroups, missingFromLastFile } from '@/server/people/reads';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { AddLearner } from './add-learner';
import { MissingList } from './missing-list';

export const metadata: Metadata = { title: 'Roster' };

export default async function RosterPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { clock, zone } = frame.runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const [courses, missing] = await Promise.all([
    coursesWithGroups(frame.runtime),
    missingFromLastFile(frame.runtime, frame.viewer),
  ]);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Roster</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          A roster file adds and updates; it never removes anybody. By hand: add a learner here; change, move and end on
          each learner’s own page. Every change stands under Changes.
        </p>
        <AddLearner courses={courses} />
        <section className={classes.section}>
          <h2>In our list, but not in the last file</h2>
          {missing.file === null ? (
            <p>No roster file has been brought in yet.</p>
          ) : missing.rows.length === 0 ? (
            <p>
              Everybody who is active stands in the last file of their course. The newest file is {missing.file.name} (
              {sayInstant(missing.file.at, zone, now)}).
            </p>
          ) : (
            <>
              <p className={classes.soft}>
                {missing.rows.length === 1
                  ? '1 enrolment is not in the last file of its course.'
                  : `${sayCount(missing.rows.length, 'enrolment')} are not in the last file of their course.`}{' '}
                The newest file is {missing.file.name} ({sayInstant(missing.file.at, zone, now)}).
              </p>
              <MissingList rows={missing.rows.map((row) => ({ ...row, enrolled: sayDay(row.enrolled_day, today) }))} />
            </>
          )}
        </section>
      </div>
    </>
  );
}
