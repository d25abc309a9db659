'use client';

import { NativeSelect } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { linkTo } from '../../_list/list-link';
import type { CourseChoice } from './course-params';

interface Props {
  path: string;
  params: Record<string, string | null | undefined>;
  courses: CourseChoice[];
  course: string;
}

/** Which course is shown; it stands in the link. */
export function CourseSelect({ path, params, courses, course }: Props) {
  const router = useRouter();
  const [pending, startTransition] = useTransition();
  return (
    <NativeSelect
      size="xs"
      aria-label="Course"
      aria-busy={pending}
      value={course}
      onChange={(event) => {
        const changed = linkTo(path, { ...params, course: event.currentTarget.value });
        startTransition(() => router.push(changed, { scroll: false }));
      }}
      data={courses.map(({ code, title }) => ({ value: code, label: title }))}
    />
  );
}
