'use client';

import { Burger, Drawer } from '@mantine/core';
import {
  IconBinoculars,
  IconBook2,
  IconCalendarEvent,
  IconFileImport,
  IconFlag,
  IconListDetails,
  IconUsers,
} from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import { Mark } from '@/ui/logo';
import { NamesSwitch } from './names-switch';
import classes from './frame.module.css';
import { linkTo } from '../_list/list-link';

interface Props {
  name: string;
  role: string;
  lead: boolean;
  /** Follow-ups of one's own that are due or overdue. */
  due: number;
  /** Saved checks that have passed their number. */
  checks: number;
  /** Sessions held whose roll is still to be taken. */
  rolls: number;
  /** Are names hidden in this session? */
  namesHidden: boolean;
  /** The form that signs out. */
  signOut: ReactNode;
}

const DESTINATIONS = [
  { href: '/watch', label: 'Watch', icon: IconBinoculars, lead: false },
  { href: '/learners', label: 'Learners', icon: IconUsers, lead: false },
  { href: '/courses', label: 'Courses', icon: IconBook2, lead: false },
  { href: '/sessions', label: 'Sessions', icon: IconCalendarEvent, lead: false },
  { href: '/access-log', label: 'Access log', icon: IconListDetails, lead: false },
  { href: '/follow-ups', label: 'Follow-ups', icon: IconFlag, lead: false },
  { href: '/set-up/data', label: 'Set-up', icon: IconFileImport, lead: true },
];

interface DestinationsProps extends Pick<Props, 'lead' | 'due' | 'checks' | 'rolls'> {
  onGo?: () => void;
}

function CursorSeal({ lead, due, checks, rolls, onGo }: DestinationsProps) {
  const path = usePathname();
  const search = useSearchParams();
  const kept = { in: search.get('in'), as_of: search.get('as_of') };
  return (
    <nav aria-label="Main">
      {DESTINATIONS.filter((place) => lead || !place.lead).map(({ href, label, icon: Icon }) => (
        <Link
          key={href}
          href={linkTo(href, kept)}
          className={classes.place}
          aria-current={path.startsWith(`/${href.split('/')[1]}`) ? 'page' : undefined}
          onClick={onGo}
        >
          <Icon size={18} stroke={1.6} aria-hidden="true" />
          <span className={classes.placeName}>{label}</span>
          {href === '/follow-ups' && due > 0 && (
            <span className={classes.count} title="due today or overdue">
              {due}
            </span>
          )}
          {href === '/sessions' && rolls > 0 && (
            <span className={classes.count} title="sessions whose roll is still to be taken">
              {rolls}
            </span>
          )}
          {href === '/courses' && checks > 0 && (
            <span className={classes.count} title="saved checks that passed their number">
              {checks}
            </span>
          )}
        </Link>
      ))}
    </nav>
  );
}

/** The ink rail at the left; a menu on a narrow screen. */
export function Rail({ name, role, lead, due, checks, rolls, namesHidden, signOut }: Props) {
  const [open, setOpen] = useState(false);
  const who = (
    <div className={classes.who}>
      <NamesSwitch namesHidden={namesHidden} />
      <Link className={classes.whoName} href="/account" onClick={() => setOpen(false)}>
        {name} · {role}
      </Link>
      {signOut}
    </div>
  );
  return (
    <>
      <div className={classes.rail}>
        <div className={classes.brand}>
          <Mark />
          <span className={classes.placeName}>Lee Shore</span>
        </div>
        <CursorSeal lead={lead} due={due} checks={checks} rolls={rolls} />
        {who}
      </div>
      <header className={classes.narrowBar}>
        <Burger opened={open} onClick={() => setOpen(!open)} size="sm" color="#fff" aria-label="Menu" />
        <Mark />
        <span>Lee Shore</span>
      </header>
      <Drawer
        opened={open}
        onClose={() => setOpen(false)}
        size={240}
        title="Lee Shore"
        classNames={{ content: classes.drawer, header: classes.drawer }}
        closeButtonProps={{ 'aria-label': 'Close the menu' }}
      >
        <CursorSeal lead={lead} due={due} checks={checks} rolls={rolls} onGo={() => setOpen(false)} />
        {who}
      </Drawer>
    </>
  );
}
