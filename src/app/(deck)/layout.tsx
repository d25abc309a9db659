import type { ReactNode } from 'react';
import { isLead } from '@/data/scope';
import { requireViewer } from '@/server/viewer';
import { Rail } from '../_deck/rail';
import classes from '../_deck/deck.module.css';
import { leave } from '../sign-in/actions';

export default async function DeckLayout({ children }: { children: ReactNode }) {
  const viewer = await requireViewer();
  const signOut = (
    <form action={leave}>
      <button type="submit" className={classes.signOut}>
        Sign out
      </button>
    </form>
  );
  return (
    <div className={classes.deck}>
      <Rail name={viewer.name} role={viewer.role} lead={isLead(viewer)} signOut={signOut} />
      <main className={classes.main}>{children}</main>
    </div>
  );
}
