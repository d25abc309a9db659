import { Alert, Button, Group, TableTd, TableTh, TableTr, TextInput } from '@mantine/core';
import type { Metadata } from 'next';
import { KEPT_KINDS, KEPT_WORDS, sayKept } from '@/core/privacy/retention';
import { sayCount, sayDay, sayInstant } from '@/core/time/words';
import { dayFromDate, dayOf } from '@/core/time/zone';
import { archivesFor, coursesToArchive } from '@/server/archive/archive';
import { backupsMade } from '@/server/backup/made';
import { retention } from '@/server/privacy/retention';
import { InvalidInput } from '@/server/request/input';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import { Refresher } from '../../../_frame/refresher';
import classes from '../set-up.module.css';
import { ArchiveCourse, SetDays, TakeBackArchive, TakeBackDays } from './how-long-actions';
import howLong from './how-long.module.css';

export const metadata: Metadata = { title: 'How long' };

/** Rows shown of what goes; the API has all. */
const SHOWN = 200;

/** Backups shown, the newest first. */
const BACKUPS = 14;

const STATES = { asked: 'waits', emptying: 'is being archived', done: 'archived' } as const;

/** How long what is kept of people is kept, what goes by that, and what of finished courses is archived. */
export default async function HowLongPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer, params } = frame;
  const { zone } = runtime;
  const now = runtime.clock.now();
  const tried = Object.fromEntries(KEPT_KINDS.flatMap((kind) => (params[kind] ? [[kind, params[kind]]] : [])));
  let faults: Record<string, string> = {};
  const kept = await retention(runtime, viewer, tried).catch((error: unknown) => {
    if (!(error instanceof InvalidInput)) throw error;
    faults = Object.fromEntries(error.errors.map(({ field, message }) => [field, message]));
    return retention(runtime, viewer);
  });
  const [archived, endedCourses, backups] = await Promise.all([
    archivesFor(runtime, viewer),
    coursesToArchive(runtime, viewer),
    backupsMade(runtime),
  ]);
  const { days, isSet, next, shown, going } = kept;
  const isTried = Object.keys(tried).length > 0 && Object.keys(faults).length === 0;
  const due = going.filter(({ isDue }) => isDue).length;
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={archived.some(({ state }) => state !== 'done') ? 2000 : null} />
      <div className={frameClasses.page}>
        <h1>How long</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          Days after the last day of a course; of a learner’s messages, notes and looks, after the last of their
          courses. What has no last day is kept. Figures of courses, and days there, stay in any case.
        </p>
        {!isSet && next === null && (
          <Alert role="status" my="sm" color="gray">
            Nothing goes yet: these days are proposed, and hold a day after a lead has set them.
          </Alert>
        )}
        {next !== null && (
          <Alert role="status" my="sm" color="yellow">
            <Group gap={12}>
              <span>
                Set, and holds from {sayInstant(next.from, zone, now)}:{' '}
                {KEPT_KINDS.map((kind) => `${KEPT_WORDS[kind].title.toLowerCase()} ${sayKept(next.days[kind])}`).join(
                  ', ',
                )}
                .
              </span>
              <TakeBackDays />
            </Group>
          </Alert>
        )}
        <form method="get" noValidate>
          <PlainTable label="Days by kind" heads={['Kept', 'Days', 'What that is']}>
            {KEPT_KINDS.map((kind) => (
              <TableTr key={kind}>
                <TableTh scope="row">{KEPT_WORDS[kind].title}</TableTh>
                <TableTd>
                  <TextInput
                    size="xs"
                    name={kind}
                    aria-label={`${KEPT_WORDS[kind].title}: days`}
                    defaultValue={params[kind] ?? String(shown[kind] ?? 'for ever')}
                    error={faults[kind]}
                    className={howLong.days}
                  />
                </TableTd>
                <TableTd className={classes.soft}>
                  {KEPT_WORDS[kind].says}
                  {isSet && ` · now ${sayKept(days[kind])}`}
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
          <Group gap={8} my="sm">
            <Button type="submit" variant="default" size="compact-sm">
              See what would go
            </Button>
            {(isTried || (!isSet && next === null && Object.keys(faults).length === 0)) && (
              <SetDays days={Object.fromEntries(KEPT_KINDS.map((kind) => [kind, String(shown[kind] ?? 'for ever')]))} />
            )}
            <span className={classes.soft}>A number of days, or “for ever”.</span>
          </Group>
        </form>
        <section className={classes.section}>
          <h2>{isTried ? 'What would go by these days' : 'What goes'}</h2>
          {going.length === 0 ? (
            <p>Nothing: no course has an end from which these days are counted, or all of it has gone.</p>
          ) : (
            <>
              <p className={classes.soft}>
                {due === 0 ? 'Nothing of it is due yet.' : `${sayCount(due, 'line')} at once when it holds.`}
                {going.length > SHOWN && ` The first ${SHOWN} of ${going.length} are shown.`}
              </p>
              <PlainTable label="What goes" heads={['On', 'What', 'Of', 'Rows']}>
                {going.slice(0, SHOWN).map((one) => (
                  <TableTr key={`${one.kind} ${one.course} ${one.on}`}>
                    <TableTd>
                      {one.on === null || one.isDue ? 'at once' : sayDay(dayFromDate(one.on)!, dayOf(now, zone))}
                    </TableTd>
                    <TableTd>{KEPT_WORDS[one.kind].title}</TableTd>
                    <TableTd>
                      {one.course !== null && (
                        <bdi>
                          {one.title} ({one.course})
                        </bdi>
                      )}
                      {one.learners !== null && sayCount(one.learners, 'learner')}
                    </TableTd>
                    <TableTd>{one.rows.toLocaleString('en-GB')}</TableTd>
                  </TableTr>
                ))}
              </PlainTable>
            </>
          )}
        </section>
        {backups.length > 0 && (
          <section className={classes.section} id="backups">
            <h2>Backups</h2>
            <p className={classes.soft}>Whoever is erased after a backup was made is still in it.</p>
            <PlainTable label="Backups" heads={['Made', 'File', 'Looked through']}>
              {backups.slice(0, BACKUPS).map(({ file, at, checked }) => (
                <TableTr key={file}>
                  <TableTd>{sayInstant(at, zone, now)}</TableTd>
                  <TableTd>
                    <bdi>{file}</bdi>
                  </TableTd>
                  <TableTd>
                    {checked === undefined
                      ? 'not put back to try it'
                      : checked.problems.length === 0
                        ? `whole, ${sayInstant(checked.at, zone, now)}`
                        : `not whole: ${checked.problems.slice(0, 3).join('; ')}`}
                  </TableTd>
                </TableTr>
              ))}
            </PlainTable>
          </section>
        )}
        <section className={classes.section} id="archives">
          <Group gap={12}>
            <h2>Archives</h2>
            {endedCourses.length > 0 && <ArchiveCourse courses={endedCourses} />}
          </Group>
          {archived.length === 0 ? (
            <p className={classes.soft}>
              No course has been archived. {endedCourses.length === 0 && 'One can be when it has ended.'}
            </p>
          ) : (
            <PlainTable
              label="Archives"
              heads={['Course', 'Asked for', 'By', 'State', 'Events', 'Files']}
              last="Actions"
            >
              {archived.map((one) => (
                <TableTr key={one.course}>
                  <TableTd>
                    <bdi>
                      {one.title} ({one.course})
                    </bdi>
                  </TableTd>
                  <TableTd>{sayInstant(one.asked_at, zone, now)}</TableTd>
                  <TableTd>
                    <bdi>{one.by ?? 'Lee Shore'}</bdi>
                  </TableTd>
                  <TableTd>
                    {STATES[one.state]}
                    {one.error !== null && <div className={classes.soft}>{one.error}</div>}
                  </TableTd>
                  <TableTd>{one.state === 'asked' ? '' : one.events.toLocaleString('en-GB')}</TableTd>
                  <TableTd>
                    {one.files > 0 && `${sayCount(one.files, 'file')}, ${(one.bytes / 1e6).toFixed(1)} MB`}
                  </TableTd>
                  <TableTd>{one.state === 'asked' && <TakeBackArchive course={one.course} />}</TableTd>
                </TableTr>
              ))}
            </PlainTable>
          )}
        </section>
      </div>
    </>
  );
}
