'use client';

import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
import { useEffect, useRef } from 'react';
import classes from './frame.module.css';
import { linkTo } from '../_list/list-link';

/** Pages that belong together, as links above each of them. */
export function Tabs({ label, tabs }: { label: string; tabs: readonly (readonly [href: string, title: string])[] }) {
  const path = usePathname();
  const search = useSearchParams();
  const kept = { in: search.get('in'), as_of: search.get('as_of') };
  // A page below one of them is its.
  const [here] = tabs
    .map(([href]) => href)
    .filter((href) => path === href || path.startsWith(`${href}/`))
    .sort((a, b) => b.length - a.length);
  const row = useRef<HTMLElement>(null);
  // Where the row is wider than the window, the one that is open stands in its middle.
  useEffect(() => {
    const open = row.current?.querySelector<HTMLElement>('[aria-current]');
    if (row.current && open)
      row.current.scrollLeft = open.offsetLeft - (row.current.clientWidth - open.offsetWidth) / 2;
  }, [here]);
  return (
    <nav className={classes.tabs} aria-label={label} ref={row}>
      {tabs.map(([href, title]) => (
        <Link
          key={href}
          href={linkTo(href, kept)}
          aria-current={href === here ? (path === href ? 'page' : true) : undefined}
        >
          {title}
        </Link>
      ))}
    </nav>
  );
}
