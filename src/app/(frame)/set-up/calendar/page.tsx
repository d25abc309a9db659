import { Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { sayWorkingHours, writeWorkingHours } from '@/core/access/when';
import { sayDay } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { listCourses } from '@/server/courses/reads';
import { breaks, workingHours } from '@/server/courses/calendar';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { AddBreak, ChangeHours, DropBreak } from './calendar-forms';

export const metadata: Metadata = { title: 'Calendar' };

export default async function CalendarPage({ searchParams }: { searchParams: SearchParams }) {
  const viewer = await requireLead();
  const frame = await openFrame(searchParams);
  const { clock, zone } = frame.runtime;
  const [hours, rows, courses] = await Promise.all([
    workingHours(frame.runtime),
    breaks(frame.runtime, viewer),
    listCourses(frame.runtime),
  ]);
  const today = dayOf(clock.now(), zone);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Calendar</h1>
        <SetUpTabs />
        <section>
          <h2>Working hours</h2>
          <p>{sayWorkingHours(hours)}, by the clock where the learner is.</p>
          <ChangeHours hours={writeWorkingHours(hours)} />
        </section>
        <section className={classes.section}>
          <h2>Breaks</h2>
          <p className={classes.soft}>Days on which a course rests are not counted as quiet.</p>
          {rows.length === 0 ? (
            <p>No course has a break yet.</p>
          ) : (
            <Table w="auto" mb="sm">
              <TableThead>
                <TableTr>
                  <TableTh>Course</TableTh>
                  <TableTh>First day</TableTh>
                  <TableTh>Last day</TableTh>
                  <TableTh>Reason</TableTh>
                  <TableTh />
                </TableTr>
              </TableThead>
              <TableTbody>
                {rows.map(({ id, course, from_day, to_day, reason }) => {
                  const [from, to] = [sayDay(from_day, today), sayDay(to_day, today)];
                  return (
                    <TableTr key={id}>
                      <TableTd>{course}</TableTd>
                      <TableTd>{from}</TableTd>
                      <TableTd>{to}</TableTd>
                      <TableTd>{reason}</TableTd>
                      <TableTd>
                        <DropBreak
                          id={id}
                          what={`${course}, ${from} to ${to}`}
                          form={{ course, from: dateOfDay(from_day), to: dateOfDay(to_day), reason }}
                        />
                      </TableTd>
                    </TableTr>
                  );
                })}
              </TableTbody>
            </Table>
          )}
          <AddBreak courses={courses.map(({ code, title }) => ({ value: code, label: `${title} (${code})` }))} />
        </section>
      </div>
    </>
  );
}
