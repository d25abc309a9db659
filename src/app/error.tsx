'use client';

import { Button } from '@mantine/core';
import { NoConnection } from '@/ui/connection';
import classes from './message.module.css';

export default function ErrorPage({ error, reset }: { error: Error; reset: () => void }) {
  const isLost = error instanceof NoConnection;
  return (
    <div className={classes.message} role="alert">
      <h1>{isLost ? 'There is no connection' : 'This page could not be shown'}</h1>
      <p>
        {isLost
          ? 'What you sent did not arrive, or its answer was lost. Try again when the connection is back, and look before you send it once more.'
          : 'Something went wrong while this page was made. What is stored is as it was before this page; if you had just sent something, look whether it is there before you send it again. The server’s log says what happened.'}
      </p>
      <Button onClick={reset}>Try again</Button>
    </div>
  );
}
