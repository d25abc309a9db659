'use client';

import { Button } from '@mantine/core';
import { useState } from 'react';
import { SCORE_BANDS, type ScoreBand } from '@/core/grades/bands';
import type { ShownSetting } from '@/server/courses/course-settings';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { previewBands, saveCourseSetting } from '../actions';

/** Changes one setting of a course; the score bands are tried on its learners first. */
export function SettingForm({ course, setting }: { course: string; setting: ShownSetting }) {
  const { name, title, says, fields, values } = setting;
  return (
    <FormButton
      label="Change…"
      button={{ 'aria-label': `Change ${title.toLowerCase()}` }}
      title={`${title}: ${course}`}
      verb="Save"
      values={values}
      says={
        <>
          {says}
          {name === 'bands' && <BandPreview course={course} secure={values.secure} getting={values.getting} />}
        </>
      }
      fields={fields}
      keep={(form: Record<string, string>) => saveCourseSetting(course, name, form)}
    />
  );
}

/** How many learners would be in each band under two edges. */
function BandPreview({ course, secure: first, getting: second }: { course: string; secure: string; getting: string }) {
  const [edges, setEdges] = useState({ secure: first, getting: second });
  const [counts, setCounts] = useState<Record<ScoreBand, number> | null>(null);
  const { pending, run } = useAction();
  return (
    <p>
      Try on this course’s learners: secure from{' '}
      <input
        aria-label="Try secure from"
        size={4}
        value={edges.secure}
        onChange={(event) => setEdges({ ...edges, secure: event.currentTarget.value })}
      />{' '}
      and getting there from{' '}
      <input
        aria-label="Try getting there from"
        size={4}
        value={edges.getting}
        onChange={(event) => setEdges({ ...edges, getting: event.currentTarget.value })}
      />{' '}
      <Button
        variant="default"
        size="compact-xs"
        loading={pending}
        onClick={() => run(() => previewBands(course, edges), { failed: 'Not tried', then: setCounts })}
      >
        Try
      </Button>{' '}
      {counts && SCORE_BANDS.map((band) => `${counts[band]} ${band}`).join(', ')}
    </p>
  );
}
