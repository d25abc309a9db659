import type { Metadata } from 'next';
import { Fragment } from 'react';
import { defaultEdges, writeScale } from '@/core/grades/bands';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import { courseOption, coursesSeen } from '@/server/courses/reads';
import { itemsWithRules, mayRule } from '@/server/courses/course-rules';
import { openView } from '@/server/request/view';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { localTime } from '../../../_frame/local-time';
import { courseOf } from '../course-params';
import { CourseSelect } from '../course-select';
import { NoCourse } from '../no-course';
import classes from '../courses.module.css';
import { DatesForm, UnitDueForm } from './dates-form';
import { ChangeItem, RemoveItem } from './item-forms';
import { GradingForm } from './grading-form';

export const metadata: Metadata = { title: 'Items' };

const dayText = (day: number | null) => (day === null ? '' : dateOfDay(day));

/** How a course's items are done, due and graded. */
export default async function ItemsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { zone, clock } = runtime;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="items are those of a course." />;
  const view = await orNotFound(openView(runtime, viewer, { course: asked.course }));
  const mayChange = mayRule(viewer, view.segment.courseId!);
  const now = clock.now();
  const { course, items } = await orNotFound(itemsWithRules(runtime, viewer, asked.course));
  const [bands, scale] = await Promise.all([
    courseOption(runtime, course.id, 'bands'),
    courseOption(runtime, course.id, 'scale'),
  ]);
  const edges = bands ?? defaultEdges(course.passMark);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Items</h1>
          <CourseSelect path="/courses/items" params={frame.params} courses={courses} course={asked.course} />
          <span className={classes.soft}>{sayCount(items.length, 'item')}</span>
          {mayChange && (
            <span className={classes.push}>
              <DatesForm
                course={course.code}
                values={{ starts_on: dayText(course.start), ends_on: dayText(course.end) }}
              />{' '}
              <UnitDueForm course={course.code} units={[...new Set(items.flatMap(({ unit }) => unit ?? []))]} />{' '}
              <GradingForm
                course={course.code}
                values={{
                  pass_mark: course.passMark === null ? '' : String(course.passMark),
                  secure: bands ? String(bands.secure) : '',
                  getting: bands ? String(bands.getting) : '',
                  scale: scale ? writeScale(scale) : '',
                  attendance_title: course.attendance?.title ?? '',
                  attendance_weight: course.attendance ? String(course.attendance.weight) : '',
                }}
              />
            </span>
          )}
        </div>
        <p>
          {course.start === null || course.end === null
            ? 'No first and last day are set, so there is no plan and nobody is behind it'
            : `From ${sayDay(course.start)} to ${sayDay(course.end)}`}{' '}
          · pass mark {course.passMark ?? 50} %{course.passMark === null && ' (nobody has set one)'} · secure from{' '}
          {edges.secure} %, getting there from {edges.getting} %{scale && ` · scale ${writeScale(scale)}`}
          {course.attendance && ` · ${course.attendance.title} counts with weight ${course.attendance.weight}`} ·{' '}
          {course.categories.length === 0
            ? 'no categories: every point counts alike'
            : course.categories
                .map(({ name, weight }) => `${name} ${weight === null ? 'without a weight' : `weight ${weight}`}`)
                .join(', ')}
        </p>
        {items.length === 0 ? (
          <p>This course has no item yet. A lead brings in its outline under Set-up.</p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Items">
            <table className={classes.courses}>
              <thead>
                <tr>
                  {['Item', 'Done when', 'Due', 'Points', 'Category', 'Counts', ...(mayChange ? [''] : [])].map(
                    (head) => (
                      <th key={head} scope="col" aria-label={head === '' ? 'What to do' : undefined}>
                        {head}
                      </th>
                    ),
                  )}
                </tr>
              </thead>
              <tbody>
                {items.map((item, index) => {
                  const byHand = JSON.parse(item.by_hand) as string[];
                  return (
                    <Fragment key={item.id}>
                      {item.unit !== items[index - 1]?.unit && (
                        <tr className={classes.unit}>
                          <th colSpan={mayChange ? 7 : 6} scope="colgroup">
                            {item.unit ?? 'In no unit'}
                          </th>
                        </tr>
                      )}
                      <tr data-removed={item.removed_at !== null || undefined}>
                        <th scope="row">
                          {item.title}
                          <small>
                            {[
                              item.external_id,
                              item.kind,
                              item.required === 1 ? 'required' : 'not required',
                              item.must === 1 ? 'must be done' : null,
                              item.stage && `check ${item.stage}`,
                              item.removed_at !== null ? 'removed' : null,
                              byHand.length > 0 ? `set here: ${byHand.join(', ').replaceAll('_', ' ')}` : null,
                            ]
                              .filter(Boolean)
                              .join(' · ')}
                          </small>
                        </th>
                        <td>{item.rule}</td>
                        <td>{item.due_at === null ? '' : sayInstant(item.due_at, zone, now)}</td>
                        <td>{item.points ?? ''}</td>
                        <td>{item.category ?? ''}</td>
                        <td>{item.points === null ? '' : item.policy}</td>
                        {mayChange && (
                          <td className={classes.deeds}>
                            {item.removed_at === null && (
                              <ChangeItem
                                course={course.code}
                                item={item.external_id}
                                title={item.title}
                                values={{
                                  done_when: item.done_when ?? '',
                                  due_at: item.due_at === null ? '' : localTime(item.due_at, zone),
                                  points: item.points === null ? '' : String(item.points),
                                  category: item.category ?? '',
                                  policy: item.policy,
                                  required: item.required === 1 ? 'yes' : 'no',
                                  must: item.must === 1 ? 'yes' : 'no',
                                  stage: item.stage ?? 'none',
                                  url: item.url ?? '',
                                }}
                                categories={course.categories.map(({ name }) => name)}
                              />
                            )}
                            <RemoveItem
                              course={course.code}
                              item={item.external_id}
                              title={item.title}
                              isRemoved={item.removed_at !== null}
                            />
                          </td>
                        )}
                      </tr>
                    </Fragment>
                  );
                })}
              </tbody>
            </table>
          </div>
        )}
        <p className={classes.soft}>
          What is set here stays when an outline comes later. Done when: opened, minutes&gt;=N, watched&gt;=N%,
          handed_in, score&gt;=N%, talked&gt;=N, attended, by_hand, joined by semicolons; without any, the kind of item
          says.
        </p>
      </div>
    </>
  );
}
