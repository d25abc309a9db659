import type { Metadata } from 'next';
import { IDLE_CHOICES, hasLetters, idleMinutes, ownSignIns } from '@/server/staff/own-account';
import { runtime } from '@/server/runtime';
import { requireViewer, sessionToken } from '@/server/request/viewer';
import { SchemeSwitch } from '@/ui/scheme-switch';
import frameClasses from '../../_frame/frame.module.css';
import classes from '../set-up/set-up.module.css';
import { hasFlareMail } from '@/server/contact/flares';
import { isStaffMember } from '@/core/staff/rights';
import { FlareMailSwitch } from './flare-mail-switch';
import { IdleSelect } from './idle-select';
import { LettersSwitch } from './letters-switch';
import { ChangePassword, SignIns } from './sign-ins';

export const metadata: Metadata = { title: 'Your account' };

export default async function AccountPage() {
  const viewer = await requireViewer();
  const opened = await runtime();
  const [signIns, letters, idle, flareMail] = await Promise.all([
    ownSignIns(opened, viewer, (await sessionToken())!),
    hasLetters(opened, viewer),
    idleMinutes(opened, viewer),
    hasFlareMail(opened, viewer),
  ]);
  return (
    <div className={frameClasses.page}>
      <h1>Your account</h1>
      <p>
        {viewer.name} · {viewer.role}
      </p>
      <section>
        <h2>Password</h2>
        <ChangePassword />
      </section>
      <section className={classes.section}>
        <h2>Light or dark</h2>
        <SchemeSwitch />
      </section>
      <section className={classes.section}>
        <h2>Keys</h2>
        <LettersSwitch on={letters} />
      </section>
      {isStaffMember(viewer) && (
        <section className={classes.section}>
          <h2>Flares</h2>
          <FlareMailSwitch on={flareMail} />
        </section>
      )}
      <section className={classes.section}>
        <h2>Where you are signed in</h2>
        <IdleSelect idle={idle} choices={IDLE_CHOICES.map(([value, label]) => ({ value, label }))} />
        <SignIns signIns={signIns} now={opened.clock.now()} zone={opened.zone} />
      </section>
    </div>
  );
}
