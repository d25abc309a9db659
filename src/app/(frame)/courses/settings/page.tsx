import type { Metadata } from 'next';
import Link from 'next/link';
import { isLead } from '@/core/staff/rights';
import { mayRule } from '@/server/courses/course-rights';
import { courseSettings } from '@/server/courses/course-settings';
import { coursesSeen } from '@/server/courses/reads';
import { settingPage } from '@/server/drift/settings';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf } from '../course-params';
import { CourseSelect } from '../course-select';
import { NoCourse } from '../no-course';
import classes from '../courses.module.css';
import { SettingForm } from './setting-form';

export const metadata: Metadata = { title: 'Course settings' };

/** All that is set for a course, in one place. */
export default async function SettingsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="settings are those of a course." />;
  const { course, settings } = await orNotFound(courseSettings(runtime, viewer, asked.course));
  const mayChange = mayRule(viewer, course.id);
  const drift = isLead(viewer) ? await orNotFound(settingPage(runtime, viewer, course.code)) : null;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Settings</h1>
          <CourseSelect path="/courses/settings" params={frame.params} courses={courses} course={asked.course} />
          {!mayChange && (
            <span className={classes.soft}>changed by leads, and by instructors of the course as a whole</span>
          )}
        </div>
        <PlainTable
          label="Settings of the course"
          heads={['Setting', 'As it is']}
          last={mayChange ? 'Change' : undefined}
        >
          {settings.map((setting) => (
            <tr key={setting.name} className={classes.item}>
              <th scope="row">
                {setting.title}
                <small>{setting.says}</small>
              </th>
              <td>{setting.stands}</td>
              {mayChange && (
                <td>
                  <SettingForm key={setting.stands} course={course.code} setting={setting} />
                </td>
              )}
            </tr>
          ))}
          {drift && (
            <tr className={classes.item}>
              <th scope="row">
                Weights of drift
                <small>How much each reason says, early and late in the course.</small>
              </th>
              <td>{drift.isOwn ? 'this course has its own' : 'as the whole programme has them'}</td>
              <td>
                <Link href={linkTo('/set-up/weights', { course: course.code })}>Open the weights</Link>
              </td>
            </tr>
          )}
        </PlainTable>
      </div>
    </>
  );
}
