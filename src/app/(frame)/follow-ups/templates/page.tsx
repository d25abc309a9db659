import type { Metadata } from 'next';
import { isLead, isStaffMember } from '@/core/staff/rights';
import { listTemplates, teamCourses } from '@/server/contact/reads';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { FollowUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../follow-ups.module.css';
import { Templates } from './templates';

export const metadata: Metadata = { title: 'Templates' };

export default async function TemplatesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const [templates, teams] = await Promise.all([
    listTemplates(runtime, viewer),
    teamCourses(runtime, viewer).orderBy('course.title').select('course.code', 'course.title'),
  ]);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Templates</h1>
          <span className={classes.soft}>kept for a course’s team, or for everyone</span>
        </div>
        <FollowUpTabs />
        <Templates
          templates={templates.map(({ id, course, name, subject, body, answers, is_praise }) => ({
            ...{ id, course, name, subject, body, answers, is_praise },
          }))}
          teams={teams as { code: string; title: string }[]}
          lead={isLead(viewer)}
          mayChange={isStaffMember(viewer)}
        />
      </div>
    </>
  );
}
