'use client';

import { Button } from '@mantine/core';
import { useState } from 'react';
import { SCORE_BANDS, type ScoreBand } from '@/core/grades/bands';
import type { GradingInput } from '@/server/courses/course-rules';
import type { FormOf } from '@/server/request/input';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { saveGrading, previewBands } from '../actions';

type Form = FormOf<GradingInput>;

/** How a course grades: its pass mark, score bands with a preview, a scale for totals, attendance as a category. */
export function GradingForm({ course, values }: { course: string; values: Form }) {
  return (
    <FormButton
      label="Pass mark, bands, scale…"
      title={`How ${course} grades`}
      verb="Save"
      values={values}
      size="lg"
      says={<BandPreview course={course} secure={values.secure} getting={values.getting} />}
      fields={[
        { name: 'pass_mark', label: 'Pass mark, per cent', placeholder: '50', most: 6 },
        {
          name: 'secure',
          label: 'Secure from, per cent',
          description: 'Empty with the next: the pass mark and the middle between it and 100',
          most: 6,
        },
        { name: 'getting', label: 'Getting there from, per cent', most: 6 },
        {
          name: 'scale',
          label: 'A scale for totals',
          placeholder: '85 A, 70 B, 50 C',
          description: 'From so many per cent on, and what it is called; the number stays beside it',
          most: 2000,
        },
        {
          name: 'attendance_weight',
          label: 'Weight of attendance among the categories',
          description: 'Empty: it does not count',
          most: 6,
        },
        { name: 'attendance_title', label: 'What that category is called', placeholder: 'Attendance', most: 200 },
      ]}
      keep={(form: Form) => saveGrading(course, form)}
    />
  );
}

/** How many learners would be in each band under two edges. */
function BandPreview({ course, secure: first, getting: second }: { course: string; secure: string; getting: string }) {
  const [edges, setEdges] = useState({ secure: first, getting: second });
  const [counts, setCounts] = useState<Record<ScoreBand, number> | null>(null);
  const { pending, run } = useAction();
  return (
    <div>
      Try edges:{' '}
      <input
        aria-label="Secure from"
        size={4}
        value={edges.secure}
        onChange={(event) => setEdges({ ...edges, secure: event.currentTarget.value })}
      />{' '}
      and{' '}
      <input
        aria-label="Getting there from"
        size={4}
        value={edges.getting}
        onChange={(event) => setEdges({ ...edges, getting: event.currentTarget.value })}
      />{' '}
      <Button
        variant="default"
        size="compact-xs"
        loading={pending}
        onClick={() => run(() => previewBands(course, edges), { failed: 'These are no edges', then: setCounts })}
      >
        Preview
      </Button>{' '}
      {counts && SCORE_BANDS.map((band) => `${counts[band]} ${band}`).join(', ')}
    </div>
  );
}
