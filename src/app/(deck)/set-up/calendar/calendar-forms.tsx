'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState, useTransition } from 'react';
import { FormDialog } from '../../../_deck/form-dialog';
import { offerUndo } from '../../../_people/use-people';
import { addTheBreak, dropTheBreak, setTheHours } from '../actions';

/** Changes when people of the programme work. */
export function ChangeHours({ hours }: { hours: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button variant="default" onClick={() => setOpen(true)}>
        Change…
      </Button>
      {open && (
        <FormDialog
          title="Working hours"
          says="By the clock where the learner is. They tell who studies at night or at the weekend."
          verb="Keep"
          fields={[{ name: 'hours', label: 'Days and times', description: 'Such as mon-fri 08:00-17:00' }]}
          values={{ hours }}
          keep={setTheHours}
          onClose={() => setOpen(false)}
        />
      )}
    </>
  );
}

/** Adds days on which a course rests. */
export function AddBreak({ courses }: { courses: { value: string; label: string }[] }) {
  const [open, setOpen] = useState(false);
  if (courses.length === 0) return null;
  return (
    <>
      <Button variant="default" onClick={() => setOpen(true)}>
        Add a break…
      </Button>
      {open && (
        <FormDialog
          title="Add a break"
          says="Days on which a course rests are not counted as quiet. Drift is read anew from its first day on."
          verb="Add"
          fields={[
            { name: 'course', label: 'Course', choices: courses },
            { name: 'from', label: 'First day', type: 'date' },
            { name: 'to', label: 'Last day', type: 'date' },
            { name: 'reason', label: 'Reason (may be left out)' },
          ]}
          values={{ course: courses[0].value }}
          keep={addTheBreak}
          onClose={() => setOpen(false)}
          onDone={() => notifications.show({ title: 'The break is added', message: '' })}
        />
      )}
    </>
  );
}

interface DropProps {
  id: number;
  /** The break in words. */
  what: string;
  /** What would add it again. */
  form: Record<string, string>;
}

/** Takes a break away; undone by adding it again. */
export function DropBreak({ id, what, form }: DropProps) {
  const [pending, startTransition] = useTransition();
  const drop = () =>
    startTransition(async () => {
      const result = await dropTheBreak(id);
      if (result.ok) offerUndo(`Its days are counted: ${what}`, async () => void (await addTheBreak(form)));
      else notifications.show({ title: 'It was not taken away', message: result.says, color: 'red' });
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={drop} aria-label={`Take away: ${what}`}>
      Take away
    </Button>
  );
}
