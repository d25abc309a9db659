'use client';

import { Button, Group } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import type { FormOf } from '@/server/request/input';
import type { EndInput, EnrolInput } from '@/server/people/roster-input';
import { FormDialog } from '../../../_frame/form-dialog';
import { choicesOf } from '../../../_frame/choices';
import type { Field } from '../../../_frame/form-field';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { endEnrolments, enrolLearner, mergeInto, moveToGroup, resumeEnrolments, unmerge } from './actions';

interface CourseChoice {
  code: string;
  title: string;
  groups: string[];
}

export const ENDING: Field<FormOf<EndInput>>[] = [
  {
    name: 'status',
    label: 'How',
    type: 'choice',
    choices: choicesOf({ withdrawn: 'withdrawn', completed: 'completed' }),
  },
  { name: 'ended_on', label: 'On', type: 'day', description: 'Empty for today.' },
];

/** What is asked for to enrol somebody in a course. */
export function enrolling(courses: readonly { code: string; title: string }[]): Field<FormOf<EnrolInput>>[] {
  return [
    {
      name: 'course',
      label: 'Course',
      type: 'choice',
      choices: courses.map(({ code, title }) => ({ value: code, label: title })),
    },
    { name: 'group', label: 'Group' },
    { name: 'enrolled_on', label: 'From', type: 'day', description: 'Empty for today.' },
  ];
}

/** What was ended can be resumed for ten seconds. */
export function toldEnded(ids: number[]) {
  offerUndo(ids.length === 1 ? 'Enrolment ended' : `${ids.length} enrolments ended`, async () => {
    const result = await resumeEnrolments(ids);
    notifications.show({ title: result.ok ? 'Enrolled again' : 'That could not be undone', message: '' });
  });
}

interface Props {
  enrolmentId: number;
  course: string;
  active: boolean;
  group: string | null;
  courses: CourseChoice[];
}

/** Moves a learner to another group, ends an enrolment, or takes it up again. */
export function EnrolmentActions({ enrolmentId, course, active, group, courses }: Props) {
  const [doing, setDoing] = useState<'move' | 'end' | null>(null);
  const groups = courses.find((one) => one.code === course)?.groups ?? [];
  if (!active) {
    return (
      <Button variant="default" size="compact-xs" onClick={() => void resumeEnrolments([enrolmentId])}>
        Enrol again
      </Button>
    );
  }
  return (
    <Group gap={6} mt={6}>
      <Button variant="default" size="compact-xs" onClick={() => setDoing('move')}>
        Move group…
      </Button>
      <Button variant="default" size="compact-xs" onClick={() => setDoing('end')}>
        End…
      </Button>
      {doing === 'move' && (
        <FormDialog
          title={`Group in ${course}`}
          fields={[
            {
              name: 'group',
              label: 'Group',
              type: 'offers',
              offers: groups,
              description: 'A new name makes a new group.',
            },
          ]}
          values={{ group: group ?? '' }}
          verb="Move"
          keep={(form: { group: string }) => moveToGroup(enrolmentId, form.group)}
          onClose={() => setDoing(null)}
        />
      )}
      {doing === 'end' && (
        <FormDialog
          title={`End the enrolment in ${course}`}
          fields={ENDING}
          values={{ status: 'withdrawn', ended_on: '' }}
          verb="End it"
          keep={(form: FormOf<EndInput>) => endEnrolments([enrolmentId], form)}
          onClose={() => setDoing(null)}
          onDone={toldEnded}
        />
      )}
    </Group>
  );
}

interface RecordProps {
  learnerId: number;
  name: string;
  courses: CourseChoice[];
  lead: boolean;
  mayMerge: boolean;
  /** Id of the record that was merged into this one last, and when, in words. */
  merged: { gone: string; at: string } | null;
}

/** Enrols a learner in a course more, or makes two records of one person one. */
export function RecordActions({ learnerId, name, courses, lead, mayMerge, merged }: RecordProps) {
  const [doing, setDoing] = useState<'enrol' | 'merge' | null>(null);
  const { run } = useAction();
  const apart = () =>
    run(() => unmerge(learnerId), {
      done: `Taken apart: ${merged!.gone} is a record of its own again`,
      failed: 'It was not taken apart',
    });
  return (
    <Group gap={8} mt={8}>
      {lead && (
        <Button variant="default" size="compact-xs" onClick={() => setDoing('enrol')}>
          Enrol in a course…
        </Button>
      )}
      {mayMerge && (
        <Button variant="default" size="compact-xs" onClick={() => setDoing('merge')}>
          Merge another record…
        </Button>
      )}
      {merged && (
        <>
          <span>
            {merged.gone} was merged into this record {merged.at}.
          </span>
          {mayMerge && (
            <Button variant="default" size="compact-xs" onClick={apart}>
              Take apart
            </Button>
          )}
        </>
      )}
      {doing === 'enrol' && (
        <FormDialog
          title={`Enrol ${name}`}
          fields={enrolling(courses)}
          values={{ course: courses[0]?.code ?? '', group: '', enrolled_on: '' }}
          verb="Enrol"
          keep={(form: FormOf<EnrolInput>) => enrolLearner(learnerId, form)}
          onClose={() => setDoing(null)}
        />
      )}
      {doing === 'merge' && (
        <FormDialog
          title="Merge another record into this one"
          says="Everything of the other record comes to this one: its log, enrolments, messages, notes and follow-ups. Nothing is lost, and it can be taken apart again."
          fields={[{ name: 'learner_id', label: 'The other record’s id' }]}
          values={{ learner_id: '' }}
          verb="Merge"
          keep={(form: { learner_id: string }) => mergeInto(learnerId, form.learner_id)}
          onClose={() => setDoing(null)}
        />
      )}
    </Group>
  );
}
