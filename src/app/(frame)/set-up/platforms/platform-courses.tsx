'use client';

import { Button, Select, TableTd, TableTr } from '@mantine/core';
import { sayInstant } from '@/core/time/words';
import type { listPlatformCourses } from '@/data/staff/platforms';
import { PlainTable } from '@/ui/plain-table';
import { useAction } from '../../../_frame/use-action';
import { connectCourse, readRosterSoon } from '../actions';
import classes from '../set-up.module.css';

type Row = Awaited<ReturnType<typeof listPlatformCourses>>[number] & { platform: string; hasRoster: boolean };

interface Props {
  courses: Row[];
  /** Codes of the courses here. */
  own: string[];
  now: number;
  zone: string;
}

/** Courses of platforms: which each is here, and how its roster stands. */
export function PlatformCourses({ courses, own, now, zone }: Props) {
  const { pending, run } = useAction();
  return (
    <PlainTable label="Courses of platforms" heads={['There', 'Here', 'Roster']} last="Read">
      {courses.map(({ id, title, label, platform, course, hasRoster, seen_at, read_at, read_error }) => (
        <TableTr key={id}>
          <TableTd>
            <bdi>{title}</bdi>
            <div className={classes.soft}>
              {label !== '' && label !== title && (
                <>
                  <bdi>{label}</bdi>,{' '}
                </>
              )}
              <bdi>{platform}</bdi>, somebody came {sayInstant(seen_at, zone, now)}
            </div>
          </TableTd>
          <TableTd>
            <Select
              aria-label={`${title} is here`}
              placeholder="none"
              data={own}
              value={course}
              clearable
              disabled={pending}
              size="xs"
              miw={150}
              onChange={(code) =>
                run(() => connectCourse(id, code ?? ''), {
                  done: code === null ? `${title} is none here` : `${title} is ${code} here`,
                })
              }
            />
          </TableTd>
          <TableTd>{sayRoster({ course, hasRoster, read_at, read_error }, zone, now)}</TableTd>
          <TableTd>
            {course !== null && hasRoster && (
              <Button
                variant="default"
                size="compact-xs"
                loading={pending}
                aria-label={`Read the roster of ${title} now`}
                onClick={() => run(() => readRosterSoon(id), { done: 'It is being read' })}
              >
                Read now
              </Button>
            )}
          </TableTd>
        </TableTr>
      ))}
    </PlainTable>
  );
}

/** How a course's roster stands, in words. */
function sayRoster(
  { course, hasRoster, read_at, read_error }: Pick<Row, 'course' | 'hasRoster' | 'read_at' | 'read_error'>,
  zone: string,
  now: number,
): string {
  if (!hasRoster) return 'the platform offers none';
  if (course === null) return 'once it is known which it is here';
  if (read_error !== null) return `could not be read: it ${read_error}. Tried again within the hour.`;
  return read_at === null ? 'is about to be read' : `read ${sayInstant(read_at, zone, now)}`;
}
