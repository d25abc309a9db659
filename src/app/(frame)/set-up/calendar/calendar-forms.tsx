'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import type { BreakInput } from '@/server/courses/calendar';
import type { FormOf } from '@/server/request/input';
import { FormButton } from '../../../_frame/form-button';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { addBreak, removeBreak, setWorkingHours } from '../actions';

/** Changes when people of the programme work. */
export function ChangeHours({ hours }: { hours: string }) {
  return (
    <FormButton
      label="Change…"
      title="Working hours"
      says="By the clock where the learner is. They tell who studies at night or at the weekend."
      verb="Save"
      fields={[{ name: 'hours', label: 'Days and times', description: 'Such as mon-fri 08:00-17:00' }]}
      values={{ hours }}
      keep={setWorkingHours}
    />
  );
}

/** Adds days on which a course rests. */
export function AddBreak({ courses }: { courses: { value: string; label: string }[] }) {
  if (courses.length === 0) return null;
  return (
    <FormButton
      label="Add a break…"
      title="Add a break"
      says="Days on which a course rests are not counted as quiet. Drift is read anew from its first day on."
      verb="Add"
      fields={[
        { name: 'course', label: 'Course', type: 'choice', choices: courses },
        { name: 'from', label: 'First day', type: 'day' },
        { name: 'to', label: 'Last day', type: 'day' },
        { name: 'reason', label: 'Reason (may be left out)' },
      ]}
      values={{ course: courses[0].value }}
      keep={addBreak}
      onDone={() => notifications.show({ title: 'The break is added', message: '' })}
    />
  );
}

interface DropProps {
  id: number;
  /** The break in words. */
  what: string;
  /** What would add it again. */
  form: FormOf<BreakInput>;
}

/** Takes a break away; undone by adding it again. */
export function DropBreak({ id, what, form }: DropProps) {
  const { pending, run } = useAction();
  const drop = () =>
    run(() => removeBreak(id), {
      failed: 'It was not taken away',
      then: () => offerUndo(`Its days are counted: ${what}`, () => run(() => addBreak(form))),
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={drop} aria-label={`Take away: ${what}`}>
      Take away
    </Button>
  );
}
