import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import { FACTORS } from '@/core/drift/model';
import { DEFAULT_SETTING, changesBetween, numbersOf } from '@/core/drift/setting';
import { sayInstant } from '@/core/time/words';
import { listCourses } from '@/server/courses/reads';
import { settingPage, type SettingPage } from '@/server/drift/settings';
import { InvalidInput, NotFound } from '@/server/request/input';
import { proposedBy } from '@/server/trial/pages';
import { PlainTable } from '@/ui/plain-table';
import { ParamSelect } from '../../../_list/param-select';
import { openFrame, orNotFound, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { BackButton } from './back-button';
import { WeightsForm } from './weights-form';

export const metadata: Metadata = { title: 'Weights' };

/** What each setting of a history changed, beside the one before it. */
function changesOf({ history, course }: SettingPage, index: number): string {
  const { setting } = history[index];
  const before = history.slice(index + 1).find((one) => one.setting !== null)?.setting ?? DEFAULT_SETTING;
  if (setting === null) return 'goes by the programme’s';
  const changes = changesBetween(before, course === null ? setting : { ...setting, parts: before.parts });
  return changes.join(', ') || 'the same numbers';
}

export default async function WeightsPage({ searchParams }: { searchParams: SearchParams }) {
  const viewer = await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, params } = frame;
  const known = settingPage(runtime, viewer, params.course || undefined).catch((error: unknown) => {
    // A link to a course that is not there.
    throw error instanceof InvalidInput ? new NotFound('No such course') : error;
  });
  const fit = params.fit ? orNotFound(proposedBy(runtime, viewer, Number(params.fit))) : null;
  const [page, courses, proposed] = await Promise.all([orNotFound(known), listCourses(runtime), fit]);
  const { course, setting, isOwn, history } = page;
  const here = { course };
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Weights</h1>
          <ParamSelect
            label="Set for"
            name="course"
            path="/set-up/weights"
            params={here}
            choices={courses.map(({ code, title }) => ({ value: code, label: `${title} (${code})` }))}
            none="the whole programme"
          />
          <span className={classes.soft}>
            {course === null
              ? isOwn
                ? 'set here'
                : 'defaults'
              : isOwn
                ? 'this course has its own'
                : 'as the programme has them'}
          </span>
        </div>
        <SetUpTabs />
        <p className={classes.soft}>
          Drift is what each factor says, times its weight, over the weights of all that could be judged. From early to
          late in a course a weight goes in a straight line. Today is read anew by what you save; the days before stay
          as they were read, and say so.
        </p>
        <WeightsForm
          key={`${course} ${history[0]?.id ?? 0} ${params.fit ?? ''}`}
          course={course}
          factors={FACTORS.map(({ name, title }) => ({ name, title }))}
          values={numbersOf(setting)}
          proposed={proposed}
          usual={numbersOf(DEFAULT_SETTING)}
        />
        <section className={classes.section}>
          <h2>What was set</h2>
          {history.length === 0 ? (
            <p className={classes.soft}>Nothing was set here yet.</p>
          ) : (
            <PlainTable label="What was set" heads={['When', 'By', 'Words', 'Changes']} last="Actions">
              {history.map((one, index) => (
                <TableTr key={one.id}>
                  <TableTd>{sayInstant(one.at, runtime.zone)}</TableTd>
                  <TableTd>{one.by ?? 'Lee Shore'}</TableTd>
                  <TableTd>{one.words}</TableTd>
                  <TableTd>{changesOf(page, index)}</TableTd>
                  <TableTd>
                    {index === 0 ? (
                      <span className={classes.soft}>holds now</span>
                    ) : (
                      <BackButton
                        id={one.id}
                        course={course}
                        to={`the setting of ${sayInstant(one.at, runtime.zone)}`}
                      />
                    )}
                  </TableTd>
                </TableTr>
              ))}
              <TableTr>
                <TableTd colSpan={4} className={classes.soft}>
                  {course === null ? 'Before: as Lee Shore came' : 'Before: as the programme has them'}
                </TableTd>
                <TableTd>
                  {history[0].setting !== null && (
                    <BackButton
                      id={0}
                      course={course}
                      to={course === null ? 'how Lee Shore came' : 'what the programme has'}
                    />
                  )}
                </TableTd>
              </TableTr>
            </PlainTable>
          )}
        </section>
      </div>
    </>
  );
}
