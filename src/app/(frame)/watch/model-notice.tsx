'use client';

import { Alert, Button } from '@mantine/core';
import { useState } from 'react';
import { dismissModelNotice } from './actions';

/** Says once that drift is made of other factors now. */
export function ModelNotice() {
  const [isGone, setGone] = useState(false);
  if (isGone) return null;
  const close = () => {
    setGone(true);
    void dismissModelNotice();
  };
  return (
    <Alert title="Drift is read in another way now" mt="sm" withCloseButton closeButtonLabel="Close" onClose={close}>
      Working and talking beside the group, work that is missing or late, marks, plan and sessions now weigh more than a
      quiet week. Slipping begins at 30, adrift at 60. Whoever was written to gives up their place while you wait; who
      is away, or never started, stands on a list of their own. Days of the past are being read anew.{' '}
      <Button variant="default" size="compact-sm" onClick={close}>
        Understood
      </Button>
    </Alert>
  );
}
