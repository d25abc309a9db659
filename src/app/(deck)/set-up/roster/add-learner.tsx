'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import { FormDialog } from '../../../_deck/form-dialog';
import { addTheLearner } from '../actions';

interface Props {
  courses: { code: string; title: string; groups: string[] }[];
}

/** Adds one learner by hand, with a first enrolment. */
export function AddLearner({ courses }: Props) {
  const [opened, setOpened] = useState(false);
  if (courses.length === 0) return <p>Bring in an outline first: a learner is added to a course.</p>;
  return (
    <>
      <Button onClick={() => setOpened(true)}>Add a learner</Button>
      {opened && (
        <FormDialog
          title="Add a learner"
          fields={[
            { name: 'learner_id', label: 'Id', description: 'The one your course platform’s log has.' },
            { name: 'given_name', label: 'Given name' },
            { name: 'family_name', label: 'Family name' },
            { name: 'email', label: 'E-mail', type: 'email' },
            { name: 'phone', label: 'Phone', type: 'tel' },
            { name: 'organisation', label: 'Organisation' },
            {
              name: 'course',
              label: 'Course',
              choices: courses.map(({ code, title }) => ({ value: code, label: title })),
            },
            { name: 'group', label: 'Group' },
            { name: 'enrolled_on', label: 'From', type: 'date', description: 'Empty for today.' },
          ]}
          values={{ course: courses[0].code }}
          verb="Add"
          keep={addTheLearner}
          onClose={() => setOpened(false)}
          onDone={() => notifications.show({ title: 'Added', message: '' })}
        />
      )}
    </>
  );
}
