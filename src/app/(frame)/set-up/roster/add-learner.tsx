'use client';

import { notifications } from '@mantine/notifications';
import { FormButton } from '../../../_frame/form-button';
import { enrolling } from '../../learners/[learnerId]/enrolment-actions';
import { addLearner } from '../actions';

interface Props {
  courses: { code: string; title: string; groups: string[] }[];
}

/** Adds one learner by hand, with a first enrolment. */
export function AddLearner({ courses }: Props) {
  if (courses.length === 0) return <p>Bring in an outline first: a learner is added to a course.</p>;
  return (
    <FormButton
      label="Add a learner"
      button={{ variant: 'filled' }}
      title="Add a learner"
      fields={[
        { name: 'learner_id', label: 'Id', description: 'The one your course platform’s log has.' },
        { name: 'given_name', label: 'Given name' },
        { name: 'family_name', label: 'Family name' },
        { name: 'email', label: 'E-mail', type: 'email' },
        { name: 'phone', label: 'Phone', type: 'tel' },
        { name: 'organisation', label: 'Organisation' },
        ...enrolling(courses),
      ]}
      values={{ course: courses[0].code }}
      verb="Add"
      keep={addLearner}
      onDone={() => notifications.show({ title: 'Added', message: '' })}
    />
  );
}
