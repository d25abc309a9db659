import Link from 'next/link';
import { sayInstant } from '@/core/time/words';
import { DAY } from '@/core/time/zone';
import { itemsDue } from '@/server/courses/reads';
import { checksOf } from '@/server/item-use/checks';
import { linkTo } from '../../../_list/list-link';
import type { FrameContext } from '../../../_frame/page-context';

/** An item is asked about most in the days around its due date. */
const AROUND = 7 * DAY;
const MOST_CHECKS = 5;

interface Props {
  frame: FrameContext;
  course: string;
  /** The link's parameters, the question left out. */
  kept: Record<string, string | undefined>;
}

/** What one would ask most: who has worked on what falls due about now, and what one has asked before. */
export async function Likely({ frame, course, kept }: Props) {
  const { runtime, viewer, view } = frame;
  const now = runtime.clock.now();
  const [due, checks] = await Promise.all([
    itemsDue(runtime, viewer, course, now - AROUND, now + AROUND),
    checksOf(runtime, viewer),
  ]);
  return (
    <>
      {due.length > 0 && (
        <section aria-label="Due about now">
          <h2>Who has worked on what is due about now?</h2>
          <ul>
            {due.map(({ item_id, title, due_at }) => (
              <li key={item_id}>
                <Link href={linkTo('/courses/who-did', { ...kept, item: item_id, kind: 'worked' })}>
                  <bdi>{title}</bdi>
                </Link>{' '}
                {due_at < now ? 'was due' : 'is due'} {sayInstant(due_at, runtime.zone, view.now)}
              </li>
            ))}
          </ul>
        </section>
      )}
      {checks.length > 0 && (
        <section aria-label="Asked before">
          <h2>Asked before</h2>
          <ul>
            {checks.slice(0, MOST_CHECKS).map(({ id, name, query, last_count, last_of }) => (
              <li key={id}>
                <Link href={`/courses/who-did?${query}`}>
                  <bdi>{name}</bdi>
                </Link>{' '}
                {last_count === null ? 'not asked yet' : `${last_count} of ${last_of} had not`}
              </li>
            ))}
          </ul>
        </section>
      )}
      <p>
        {due.length + checks.length > 0 ? 'Or choose' : 'Choose'} an item, a unit, a sort of item, or what is done: here
        stand those who did it and those who did not.
      </p>
    </>
  );
}
