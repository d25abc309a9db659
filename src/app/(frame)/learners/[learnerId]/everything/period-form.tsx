'use client';

import { useRouter } from 'next/navigation';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { DayRange } from '../../../../_frame/day-range';
import { linkTo } from '../../../../_list/list-link';
import classes from '../learner.module.css';

interface Props {
  path: string;
  kept: Record<string, string | null>;
  /** Both included, as the link has them. */
  from?: string;
  to?: string;
}

/** The days shown; all of them when none are chosen. */
export function PeriodForm({ path, kept, from, to }: Props) {
  const router = useRouter();
  const last = dayFromDate(to ?? '');
  return (
    <div className={classes.noPrint}>
      <DayRange
        from={from}
        to={last === null ? undefined : dateOfDay(last + 1)}
        onPick={(range) => {
          const end = dayFromDate(range.to ?? '');
          router.push(linkTo(path, { ...kept, from: range.from, to: end === null ? undefined : dateOfDay(end - 1) }));
        }}
      />
    </div>
  );
}
