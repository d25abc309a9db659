'use client';

import { Alert, Button, Checkbox, Group, Stack, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import type { TrialKind } from '@/core/trial/run';
import { useForm } from '../../../_frame/use-form';
import { askForTrial, type TrialForm } from './actions';
import classes from './trial.module.css';

interface Choice {
  value: string;
  label: string;
}

interface Props {
  /** Courses that have ended. */
  courses: Choice[];
  rules: Choice[];
}

/** What is tried, on which courses, at how many people a week. */
export function AskForm({ courses, rules }: Props) {
  const router = useRouter();
  const form = useForm({
    values: {
      kind: 'trial' as TrialKind,
      courses: courses.map(({ value }) => value),
      rules: ['watch', 'drift'],
      quiet: '',
      people: '',
      // What is wrong is told by what the server calls it.
      course: '',
      rule: '',
    },
    keep: ({ kind, courses: chosen, rules, quiet, people }: TrialForm & { kind: TrialKind }) =>
      // All of them are every course that has ended by the time it is worked on.
      askForTrial(kind, { courses: chosen.length === courses.length ? [] : chosen, rules, quiet, people }),
  });
  const send = (kind: TrialKind) => form.submit({ kind }, (id) => router.push(`/set-up/trial/${id}`));
  const { values, errors } = form;
  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        send('trial');
      }}
    >
      <div className={classes.ask}>
        <Checkbox.Group
          label="Courses that have ended"
          error={errors.course}
          value={values.courses}
          onChange={(chosen) => form.set({ courses: chosen })}
        >
          <Stack gap={6} mt={6} className={classes.choices}>
            {courses.map(({ value, label }) => (
              <Checkbox key={value} size="xs" value={value} label={label} />
            ))}
          </Stack>
        </Checkbox.Group>
        <Checkbox.Group
          label="Rules, up to four"
          description="The first is looked at closely: by part, and whom it missed"
          error={errors.rule}
          value={values.rules}
          onChange={(chosen) => form.set({ rules: chosen })}
        >
          <Stack gap={6} mt={6} className={classes.choices}>
            {rules.map(({ value, label }) => (
              <Checkbox key={value} size="xs" value={value} label={label} />
            ))}
          </Stack>
        </Checkbox.Group>
        <Stack gap="sm">
          <TextInput
            size="xs"
            label="Quiet so many days or more"
            description="A rule of its own; may be left out"
            inputMode="numeric"
            {...form.field('quiet')}
          />
          <TextInput
            size="xs"
            label="People a week in each course"
            description="As many as quiet 7 lists, if left out"
            inputMode="numeric"
            {...form.field('people')}
          />
        </Stack>
      </div>
      {form.trouble && (
        <Alert color="red" role="alert" mb="sm">
          {form.trouble}
        </Alert>
      )}
      <Group gap="sm">
        <Button type="submit" loading={form.pending} disabled={values.courses.length === 0}>
          Run the trial
        </Button>
        <Button
          variant="default"
          loading={form.pending}
          disabled={values.courses.length === 0}
          onClick={() => send('fit')}
        >
          Fit weights to them
        </Button>
      </Group>
    </form>
  );
}
