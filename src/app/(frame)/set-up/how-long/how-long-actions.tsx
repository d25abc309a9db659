'use client';

import { Button, Group } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { askArchive, setRetention, takeBackArchive, takeBackRetention } from '../actions';

/** Sets the days whose effect is shown. */
export function SetDays({ days }: { days: Record<string, string> }) {
  const { pending, run } = useAction();
  const router = useRouter();
  return (
    <Button
      size="compact-sm"
      loading={pending}
      onClick={() =>
        run(() => setRetention(days), {
          done: 'Set: it holds in a day',
          then: () => router.push('/set-up/how-long'),
        })
      }
    >
      Set these days
    </Button>
  );
}

/** Takes back what was set and does not hold yet. */
export function TakeBackDays() {
  const { pending, run } = useAction();
  return (
    <Button
      variant="default"
      size="compact-sm"
      loading={pending}
      onClick={() => run(takeBackRetention, { done: 'Taken back: nothing goes', failed: 'It was not taken back' })}
    >
      Take it back
    </Button>
  );
}

/** Has a course archived that has ended. */
export function ArchiveCourse({ courses }: { courses: readonly { code: string; title: string }[] }) {
  return (
    <FormButton
      label="Archive a course…"
      button={{ size: 'compact-sm' }}
      title="Archive a course"
      says="Its events leave the database for files of Parquet, an open format, in the folder archive. Figures stay, and the access log still opens its events, more slowly. No event of the days until now can be added to it afterwards."
      fields={[
        {
          name: 'course',
          label: 'Course that has ended',
          type: 'choice',
          choices: courses.map(({ code, title }) => ({ value: code, label: `${title} (${code})` })),
        },
      ]}
      values={{ course: courses[0].code }}
      verb="Archive"
      keep={askArchive}
    />
  );
}

/** Takes an archive back that has not begun. */
export function TakeBackArchive({ course }: { course: string }) {
  const { pending, run } = useAction();
  return (
    <Group>
      <Button
        variant="default"
        size="compact-xs"
        loading={pending}
        onClick={() => run(() => takeBackArchive(course), { done: 'Taken back', failed: 'It has begun' })}
      >
        Take it back
      </Button>
    </Group>
  );
}
