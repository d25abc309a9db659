'use client';

import { NativeSelect } from '@mantine/core';
import { useAction } from '../../_frame/use-action';
import { setIdle } from './actions';

interface Props {
  /** Minutes; empty for none. */
  idle: string;
  choices: { value: string; label: string }[];
}

/** After how long without use one's sign-ins end. */
export function IdleSelect({ idle, choices }: Props) {
  const { run } = useAction();
  return (
    <NativeSelect
      w={300}
      mb="sm"
      label="A sign-in that nobody uses ends after"
      description="For a computer that others use too. An open page alone does not keep it."
      value={idle}
      data={choices}
      onChange={(event) => {
        const wanted = event.currentTarget.value;
        run(() => setIdle({ idle: wanted }), { done: 'Saved', failed: 'It was not saved' });
      }}
    />
  );
}
