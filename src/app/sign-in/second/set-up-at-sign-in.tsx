'use client';

import { useState } from 'react';
import type { OfferedCodes } from '@/server/staff/second-factor';
import { CodesForm, PaperCodes } from '@/ui/second-factor';
import { AccountForm } from '../account-form';
import { goOnIn, setUpCodes } from '../actions';
import classes from '../sign-in.module.css';

/** Sets up the codes of an app before one comes in: one's role is asked for it. */
export function SetUpAtSignIn({ offered, role }: { offered: OfferedCodes; role: string }) {
  const [paper, setPaper] = useState<readonly string[] | null>(null);
  if (paper !== null) {
    return (
      <>
        <PaperCodes codes={paper} />
        <AccountForm action={goOnIn} fields={[]} submit="I have kept them: go on" />
      </>
    );
  }
  return (
    <>
      <p className={classes.about}>
        Whoever comes in as {role} shows a code beside the password. Read the picture with an app for one-time codes,
        and type what it shows.
      </p>
      <CodesForm offered={offered} keep={setUpCodes} onKept={setPaper} />
    </>
  );
}
