'use client';

import {
  IconBinoculars,
  IconBook2,
  IconBuilding,
  IconCalendarEvent,
  IconDots,
  IconFileImport,
  IconFlag,
  IconFlare,
  IconListDetails,
  IconReport,
  IconUsers,
} from '@tabler/icons-react';
import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import { Logo } from '@/ui/logo';
import { Sheet } from '@/ui/sheet';
import { plural, sayCount } from '@/core/time/words';
import { NamesSwitch } from './names-switch';
import classes from './frame.module.css';
import { linkTo } from '../_list/list-link';

interface Props {
  name: string;
  role: string;
  lead: boolean;
  /** A partner's contact, who is outside of the trust? */
  partner: boolean;
  /** Follow-ups of one's own that are due or overdue. */
  due: number;
  /** Answers that nobody has read. */
  answers: number;
  /** Saved checks that have passed their number. */
  checks: number;
  /** Sessions held whose roll is still to be taken. */
  rolls: number;
  /** Open flares that call one, and that one has not marked as seen. */
  flares: number;
  /** Are names hidden in this session? */
  namesHidden: boolean;
  /** The form that signs out. */
  signOut: ReactNode;
}

const DESTINATIONS: readonly {
  href: string;
  label: string;
  icon: typeof IconFlag;
  of?: 'lead' | 'staff' | 'partner';
}[] = [
  { href: '/organisations', label: 'Organisation', icon: IconBuilding, of: 'partner' },
  { href: '/watch', label: 'Watch', icon: IconBinoculars },
  { href: '/learners', label: 'Learners', icon: IconUsers },
  { href: '/courses', label: 'Courses', icon: IconBook2 },
  { href: '/sessions', label: 'Sessions', icon: IconCalendarEvent },
  { href: '/access-log', label: 'Access log', icon: IconListDetails },
  { href: '/follow-ups', label: 'Follow-ups', icon: IconFlag },
  { href: '/flares', label: 'Flares', icon: IconFlare, of: 'staff' },
  { href: '/reports', label: 'Reports', icon: IconReport },
  { href: '/set-up/data', label: 'Set-up', icon: IconFileImport, of: 'lead' },
];

/** Those that a telephone has at its foot; the others stand under More. */
const AT_THE_FOOT = ['/watch', '/learners', '/sessions'];

interface DestinationsProps extends Pick<
  Props,
  'lead' | 'partner' | 'due' | 'checks' | 'rolls' | 'answers' | 'flares'
> {
  label: string;
  /** Addresses of those that are shown; all of them where it is left out. */
  only?: readonly string[];
  onGo?: () => void;
  /** What follows the last of them. */
  children?: ReactNode;
}

function Destinations({
  label: name,
  lead,
  partner,
  due,
  checks,
  rolls,
  answers,
  flares,
  only,
  onGo,
  children,
}: DestinationsProps) {
  const path = usePathname();
  const search = useSearchParams();
  const kept = { in: search.get('in'), as_of: search.get('as_of') };
  return (
    <nav aria-label={name}>
      {DESTINATIONS.filter(
        ({ of, href }) =>
          (of === undefined || { lead, staff: !partner, partner }[of]) && (only?.includes(href) ?? true),
      ).map(({ href, label, icon: Icon }) => (
        <Link
          key={href}
          href={linkTo(href, kept)}
          className={classes.destination}
          aria-current={path.startsWith(`/${href.split('/')[1]}`) ? 'page' : undefined}
          onClick={onGo}
        >
          <Icon size={18} stroke={1.6} aria-hidden="true" />
          <span className={classes.destinationName}>{label}</span>
          {href === '/follow-ups' && due + answers > 0 && (
            <span className={classes.count} title={sayWaiting(due, answers)}>
              {due + answers}
            </span>
          )}
          {href === '/sessions' && rolls > 0 && (
            <span className={classes.count} title="sessions whose roll is still to be taken">
              {rolls}
            </span>
          )}
          {href === '/flares' && flares > 0 && (
            <span className={classes.count} title="flares that call you, not marked as seen">
              {flares}
            </span>
          )}
          {href === '/courses' && checks > 0 && (
            <span className={classes.count} title="saved checks that passed their number">
              {checks}
            </span>
          )}
        </Link>
      ))}
      {children}
    </nav>
  );
}

/** "3 follow-ups are due, 2 answers are unread". */
function sayWaiting(due: number, answers: number, flares = 0): string {
  const says = [
    due > 0 && `${sayCount(due, 'follow-up')} ${plural(due, 'is', 'are')} due`,
    answers > 0 && `${sayCount(answers, 'answer')} ${plural(answers, 'is', 'are')} unread`,
    flares > 0 && `${sayCount(flares, 'flare')} ${plural(flares, 'calls', 'call')} you`,
  ];
  return says.filter(Boolean).join(', ');
}

/** The ink rail at the left; a bar at the foot of a telephone. */
export function Rail({ name, role, namesHidden, signOut, ...counts }: Props) {
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
          <Logo />
          <span className={classes.destinationName}>Lee Shore</span>
        </div>
        <Destinations label="Main" {...counts} />
        {who}
      </div>
      <div className={classes.foot}>
        <Destinations label="Main, short" {...counts} only={AT_THE_FOOT}>
          <button
            type="button"
            className={classes.destination}
            aria-expanded={open}
            aria-haspopup="dialog"
            onClick={() => setOpen(!open)}
          >
            <IconDots size={18} stroke={1.6} aria-hidden="true" />
            <span className={classes.destinationName}>More</span>
            {counts.due + counts.answers + counts.flares > 0 && (
              <span className={classes.count} title={sayWaiting(counts.due, counts.answers, counts.flares)}>
                {counts.due + counts.answers + counts.flares}
              </span>
            )}
          </button>
        </Destinations>
      </div>
      <Sheet
        isNear={false}
        opened={open}
        onClose={() => setOpen(false)}
        size="auto"
        title="Lee Shore"
        classNames={{ content: classes.drawer, header: classes.drawer }}
        closeButtonProps={{ 'aria-label': 'Close the menu' }}
      >
        <Destinations label="Everything" {...counts} onGo={() => setOpen(false)} />
        {who}
      </Sheet>
    </>
  );
}
