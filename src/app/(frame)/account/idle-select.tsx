'use client';

import { NativeSelect } from '@mantine/core';
import { useDoing } from '../../_frame/use-doing';
import { setMyIdle } from './actions';

interface Props {
  /** Minutes; empty for none. */
  idle: string;
  choices: { value: string; label: string }[];
}

/** After how long without use one's sign-ins end. */
export function IdleSelect({ idle, choices }: Props) {
  const { perform } = useDoing();
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
        perform(() => setMyIdle({ idle: wanted }), { done: 'Saved', failed: 'It was not saved' });
      }}
    />
  );
}
