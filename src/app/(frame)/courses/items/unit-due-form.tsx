'use client';

import type { UnitDueInput } from '@/server/courses/course-rules';
import type { FormOf } from '@/server/request/input';
import { FormButton } from '../../../_frame/form-button';
import { saveUnitDue } from '../actions';

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
