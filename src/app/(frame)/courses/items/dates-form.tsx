'use client';

import type { CourseDatesInput, UnitDueInput } from '@/server/courses/course-rules';
import type { FormOf } from '@/server/request/input';
import { FormButton } from '../../../_frame/form-button';
import { saveDates, saveUnitDue } from '../actions';

type Dates = FormOf<CourseDatesInput>;

/** When a course runs: the plan lies between its first and its last day. */
export function DatesForm({ course, values }: { course: string; values: Dates }) {
  return (
    <FormButton
      label="Days of the course…"
      title={`When ${course} runs`}
      says="The plan lies between the two days. Without them nobody is behind, since there is no plan."
      verb="Save"
      values={values}
      fields={[
        { name: 'starts_on', label: 'First day', type: 'day' },
        { name: 'ends_on', label: 'Last day', type: 'day' },
      ]}
      keep={(form: Dates) => saveDates(course, form)}
    />
  );
}

type UnitDue = FormOf<UnitDueInput>;

/** When everything of a unit is due. */
export function UnitDueForm({ course, units }: { course: string; units: readonly string[] }) {
  if (units.length === 0) return null;
  return (
    <FormButton
      label="Due date of a unit…"
      title="When a unit is due"
      says="Every item of the unit gets this date. Set here, it stays when an outline comes again."
      verb="Save"
      values={{ unit: units[0] }}
      fields={[
        { name: 'unit', label: 'Unit', type: 'choice', choices: units.map((unit) => ({ value: unit, label: unit })) },
        { name: 'due_at', label: 'Due', type: 'instant', atEnd: true },
      ]}
      keep={(form: UnitDue) => saveUnitDue(course, form)}
    />
  );
}
