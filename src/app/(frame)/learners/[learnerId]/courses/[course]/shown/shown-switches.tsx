'use client';

import { Switch } from '@mantine/core';
import { useAction } from '../../../../../../_frame/use-action';
import { saveShown } from '../../../../../courses/actions';
import classes from '../course-page.module.css';

interface Props {
  course: string;
  parts: { part: string; says: string; isOn: boolean }[];
}

/** What the course's learners are shown: a switch for each part. */
export function ShownSwitches({ course, parts }: Props) {
  const { pending, run } = useAction();
  return (
    <div className={classes.switches} role="group" aria-label={`What learners of ${course} are shown`}>
      <strong>What every learner of {course} sees</strong>
      {parts.map(({ part, says, isOn }) => (
        <Switch
          key={part}
          size="xs"
          label={says}
          checked={isOn}
          disabled={pending}
          onChange={() =>
            run(() =>
              saveShown(
                course,
                parts.filter((one) => (one.part === part ? !isOn : one.isOn)).map((one) => one.part),
              ),
            )
          }
        />
      ))}
    </div>
  );
}
