'use client';

import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
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
  return (
    <nav className={classes.tabs} aria-label={label}>
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
