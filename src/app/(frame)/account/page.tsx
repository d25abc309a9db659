import type { Metadata } from 'next';
import { IDLE_CHOICES, hasLetters, idleMinutes, ownSignIns } from '@/server/staff/own-account';
import { runtime } from '@/server/runtime';
import { ownOrigin, requireViewer, sessionToken } from '@/server/request/viewer';
import { noPasskeysAt, ownPasskeys } from '@/server/staff/passkeys';
import { ownParts, ownTokens } from '@/server/staff/own-tokens';
import { ownSecond } from '@/server/staff/second-factor';
import { SchemeSwitch } from '@/ui/scheme-switch';
import frameClasses from '../../_frame/frame.module.css';
import classes from '../set-up/set-up.module.css';
import { hasFlareMail } from '@/server/contact/flares';
import { isStaffMember } from '@/core/staff/rights';
import { FlareMailSwitch } from './flare-mail-switch';
import { IdleSelect } from './idle-select';
import { LettersSwitch } from './letters-switch';
import { Passkeys } from './passkeys';
import { SecondFactor } from './second-factor';
import { MakeToken, Tokens } from './tokens';
import { ChangePassword, SignIns } from './sign-ins';

export const metadata: Metadata = { title: 'Your account' };

export default async function AccountPage() {
  const viewer = await requireViewer();
  const opened = await runtime();
  const [signIns, letters, idle, flareMail, factors, keys, tokens, parts] = await Promise.all([
    ownSignIns(opened, viewer, (await sessionToken())!),
    hasLetters(opened, viewer),
    idleMinutes(opened, viewer),
    hasFlareMail(opened, viewer),
    ownSecond(opened, viewer),
    ownPasskeys(opened, viewer),
    ownTokens(opened, viewer),
    ownParts(opened, viewer),
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
        <h2>Second factor</h2>
        <SecondFactor factors={factors} />
        <Passkeys
          passkeys={keys}
          without={noPasskeysAt(await ownOrigin())}
          now={opened.clock.now()}
          zone={opened.zone}
        />
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
      <section className={classes.section} id="tokens">
        <h2>Tokens for programs</h2>
        <MakeToken parts={parts.map(({ key, label }) => ({ value: key, label }))} />
        <Tokens tokens={tokens} now={opened.clock.now()} zone={opened.zone} />
      </section>
      <section className={classes.section}>
        <h2>Where you are signed in</h2>
        <IdleSelect idle={idle} choices={IDLE_CHOICES.map(([value, label]) => ({ value, label }))} />
        <SignIns signIns={signIns} now={opened.clock.now()} zone={opened.zone} />
      </section>
    </div>
  );
}
