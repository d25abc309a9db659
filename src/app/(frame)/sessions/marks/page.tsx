import type { Metadata } from 'next';
import { isLead } from '@/core/staff/rights';
import { coursesSeen } from '@/server/courses/reads';
import { allMarks, rulesByCourse } from '@/server/sessions/marks';
import { MarkForm } from '@/ui/mark-form';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import { SessionTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../sessions.module.css';
import { AddMark, ChangeMark, ChangeRules, EndMark } from './mark-forms';

export const metadata: Metadata = { title: 'Marks' };

const percent = (share: number) => Math.round(100 * share);

export default async function MarksPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const [marks, courses] = await Promise.all([allMarks(runtime), coursesSeen(runtime, viewer)]);
  const rules = await rulesByCourse(
    runtime,
    viewer,
    courses.map(({ code }) => code),
  );
  const lead = isLead(viewer);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <SessionTabs />
        <div className={classes.head}>
          <h1>Marks</h1>
          {lead && (
            <span className={classes.push}>
              <AddMark />
            </span>
          )}
        </div>
        <PlainTable label="Marks" heads={['', 'Mark', 'Credit', 'Counts', '']}>
          {marks.map(({ code, label, credit, counts, ended_at }) => (
            <tr key={code} className={classes.line} data-off={ended_at !== null || undefined}>
              <td>
                <MarkForm credit={credit} counts={counts === 1} />
              </td>
              <td>
                {label} {ended_at !== null && <span className={classes.soft}>no longer given</span>}
              </td>
              <td>{counts === 1 ? credit : '–'}</td>
              <td>{counts === 1 ? 'counts' : 'does not count'}</td>
              <td>
                {lead && (
                  <>
                    <ChangeMark code={code} label={label} credit={credit} counts={counts === 1} />
                    {code !== 'present' && code !== 'absent' && (
                      <EndMark code={code} label={label} ended={ended_at !== null} />
                    )}
                  </>
                )}
              </td>
            </tr>
          ))}
        </PlainTable>
        <p className={classes.soft}>
          A session counts by its mark’s credit; one that does not count is left out of the rate.{' '}
          {!lead && 'A lead changes marks.'}
        </p>
        <h2>When somebody was there</h2>
        <PlainTable
          label="Lines of each course"
          heads={['Course', 'Absent under', 'Present from', 'In time within', 'A check-in is late after', '']}
        >
          {courses.map(({ code, title }) => {
            const { absentUnder, presentFrom, graceMinutes, lateAfter, mayChange } = rules.get(code)!;
            return (
              <tr key={code} className={classes.line}>
                <td>{title}</td>
                <td>{percent(absentUnder)} %</td>
                <td>{percent(presentFrom)} %</td>
                <td>{graceMinutes} min</td>
                <td>{lateAfter} min</td>
                <td>
                  {mayChange && (
                    <ChangeRules
                      course={code}
                      title={title}
                      form={{
                        absent_under: String(percent(absentUnder)),
                        present_from: String(percent(presentFrom)),
                        grace_minutes: String(graceMinutes),
                        late_after: String(lateAfter),
                      }}
                    />
                  )}
                </td>
              </tr>
            );
          })}
        </PlainTable>
      </div>
    </>
  );
}
