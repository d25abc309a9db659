'use client';

import { Burger, Drawer } from '@mantine/core';
import { IconBinoculars, IconFileImport, IconMessage2, IconUsers } from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import { Mark } from '@/ui/mark';
import { SchemeSwitch } from '@/ui/scheme-switch';
import classes from './deck.module.css';

interface Props {
  name: string;
  role: string;
  lead: boolean;
  /** The form that signs out. */
  signOut: ReactNode;
}

const PLACES = [
  { href: '/watch', label: 'Watch', icon: IconBinoculars, lead: false },
  { href: '/learners', label: 'Learners', icon: IconUsers, lead: false },
  { href: '/follow-ups/messages', label: 'Messages', icon: IconMessage2, lead: false },
  { href: '/set-up/data', label: 'Set-up', icon: IconFileImport, lead: true },
];

function Places({ lead, onGo }: { lead: boolean; onGo?: () => void }) {
  const path = usePathname();
  const part = useSearchParams().get('in');
  return (
    <nav aria-label="Main">
      {PLACES.filter((place) => lead || !place.lead).map(({ href, label, icon: Icon }) => (
        <Link
          key={href}
          href={part ? `${href}?in=${encodeURIComponent(part)}` : href}
          className={classes.place}
          aria-current={path.startsWith(href) ? 'page' : undefined}
          onClick={onGo}
        >
          <Icon size={18} stroke={1.6} aria-hidden="true" />
          <span className={classes.placeName}>{label}</span>
        </Link>
      ))}
    </nav>
  );
}

/** The ink rail at the left; a menu on a narrow screen. */
export function Rail({ name, role, lead, signOut }: Props) {
  const [open, setOpen] = useState(false);
  const who = (
    <div className={classes.who}>
      <SchemeSwitch />
      <div className={classes.whoName}>
        {name} · {role}
      </div>
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
        <Places lead={lead} />
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
        <Places lead={lead} onGo={() => setOpen(false)} />
        {who}
      </Drawer>
    </>
  );
}
