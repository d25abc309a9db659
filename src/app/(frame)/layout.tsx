import type { ReactNode } from 'react';
import { dayOf } from '@/core/time/zone';
import { unseenFlares } from '@/server/contact/flares';
import { contactPulse } from '@/server/contact/reads';
import { countDue, countUnread } from '@/server/contact/reads';
import { isLead, isStaffMember } from '@/core/staff/rights';
import { hasLetters } from '@/server/staff/own-account';
import { unseenChecks } from '@/server/item-use/checks';
import { runtime } from '@/server/runtime';
import { rollsToTake } from '@/server/sessions/sessions-list';
import { requireViewer } from '@/server/request/viewer';
import { ConnectionNotice } from '../_frame/connection-notice';
import { Keys } from '../_frame/keys';
import { LettersProvider } from '../_frame/letters';
import { Pulse } from '../_frame/pulse';
import { Rail } from '../_frame/rail';
import { RollKeeper } from '../_frame/roll-keeper';
import classes from '../_frame/frame.module.css';
import { TodayProvider } from '../_frame/today';
import { leave } from '../sign-in/actions';

export default async function FrameLayout({ children }: { children: ReactNode }) {
  const viewer = await requireViewer();
  const opened = await runtime();
  const { clock, zone } = opened;
  const today = dayOf(clock.now(), zone);
  const [due, answers, pulse, checks, letters, rolls, flares] = await Promise.all([
    countDue(opened, viewer, today),
    countUnread(opened, viewer),
    contactPulse(opened),
    unseenChecks(opened, viewer),
    hasLetters(opened, viewer),
    rollsToTake(opened, viewer),
    unseenFlares(opened, viewer),
  ]);
  const namesHidden = viewer.standInKey !== null;
  const signOut = (
    <form action={leave}>
      <button type="submit" className={classes.signOut}>
        Sign out
      </button>
    </form>
  );
  return (
    <TodayProvider day={today}>
      <LettersProvider on={letters}>
        <div className={classes.frame}>
          <Rail
            name={viewer.name}
            role={viewer.role}
            lead={isLead(viewer)}
            partner={!isStaffMember(viewer)}
            due={due}
            answers={answers}
            checks={checks}
            rolls={rolls}
            flares={flares}
            namesHidden={namesHidden}
            signOut={signOut}
          />
          <main className={classes.main}>
            {namesHidden && (
              <div className={classes.namesHidden} role="status">
                <strong>Names are hidden.</strong> Every name, id, e-mail and phone on this screen is a stand-in.
              </div>
            )}
            {children}
          </main>
          <Keys />
          <ConnectionNotice />
          <Pulse now={pulse} />
          <RollKeeper staffId={viewer.staffId} />
        </div>
      </LettersProvider>
    </TodayProvider>
  );
}
