import Link from 'next/link';
import { sayCount } from '@/core/time/words';
import type { NoticeLine } from '@/server/drift/notices';
import classes from './watch.module.css';

/** Courses named before the rest is counted. */
const NAMED = 6;

function sayCourses(courses: readonly string[]): string {
  if (courses.length <= NAMED) return courses.join(', ');
  return `${courses.slice(0, NAMED).join(', ')} and ${sayCount(courses.length - NAMED, 'more course')}`;
}

interface Props {
  lines: readonly NoticeLine[];
  /** What drift cannot read at all, in one line; null where it reads enough. */
  missing: string | null;
  isLead: boolean;
}

/** What has to be known to read the list: what stopped first, said whole; what never came, one press away. */
export function NoticeLines({ lines, missing, isLead }: Props) {
  const [first, rest] = [
    lines.filter(({ what }) => what === 'stopped'),
    lines.filter(({ what }) => what !== 'stopped'),
  ];
  if (lines.length === 0 && missing === null) return null;
  return (
    <div className={classes.notices} role="note">
      {first.map(({ courses, says }) => (
        <p key={says}>
          <strong>{sayCourses(courses)}:</strong> {says} {isLead && <Link href="/set-up/sources">Sources</Link>}
        </p>
      ))}
      {missing && (
        <p>
          {missing} {isLead && <Link href="/set-up/data">What would make it see more</Link>}
        </p>
      )}
      {rest.length > 0 && (
        <details>
          <summary>What nobody can be judged by here: {sayCount(rest.length, 'thing')}</summary>
          {rest.map(({ courses, says }) => (
            <p key={says}>
              <strong>{sayCourses(courses)}:</strong> {says}
            </p>
          ))}
        </details>
      )}
    </div>
  );
}
