'use client';

import { Button } from '@mantine/core';
import classes from './message.module.css';

export default function ErrorPage({ reset }: { reset: () => void }) {
  return (
    <div className={classes.message} role="alert">
      <h1>This page could not be shown</h1>
      <p>
        Something went wrong inside Lee Shore. Nothing was changed and nothing is lost; the server’s log says what
        happened.
      </p>
      <Button onClick={reset}>Try again</Button>
    </div>
  );
}
