import type { Metadata } from 'next';
import Link from 'next/link';
import { Fragment } from 'react';
import { sayCount, sayInstant } from '@/core/time/words';
import { coursesSeen } from '@/server/courses/reads';
import { itemsWithRules } from '@/server/courses/course-rules';
import { mayRule } from '@/server/courses/course-rights';
import { openView } from '@/server/request/view';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { localTime } from '../../../_frame/local-time';
import { courseOf } from '../course-params';
import { CourseSelect } from '../course-select';
import { NoCourse } from '../no-course';
import classes from '../courses.module.css';
import { UnitDueForm } from './unit-due-form';
import { ChangeItem, RemoveItem } from './item-forms';

export const metadata: Metadata = { title: 'Items' };

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
              <UnitDueForm course={course.code} units={[...new Set(items.flatMap(({ unit }) => unit ?? []))]} />{' '}
            </span>
          )}
        </div>
        <p>
          {course.categories.length === 0
            ? 'No categories: every point counts alike'
            : course.categories
                .map(({ name, weight }) => `${name} ${weight === null ? 'without a weight' : `weight ${weight}`}`)
                .join(', ')}
          . Days, pass mark and bands of the course stand under{' '}
          <Link href={linkTo('/courses/settings', { course: course.code, in: frame.params.in })}>Settings</Link>.
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
                              item.provisional !== null ? 'provisional' : null,
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
