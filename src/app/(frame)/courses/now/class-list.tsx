import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState, type FormEvent } from 'react';
import { readTypedTime } from '@/core/time/typed';
import { sayTime } from '@/core/time/words';
import type { ClassMember } from '@/data/people/enrolments';
import { PersonLink } from '../../../_people/person-link';
import { linkTo } from '../../../_list/list-link';
import { TimeField } from '../../../_frame/time-field';
import classes from './now.module.css';

interface Props {
  members: ClassMember[];
  /** When those came who have come since the page was opened. */
  arrived: ReadonlyMap<string, number>;
  /** From when it looks. */
  sinceText: string;
  session: { id: string | null; title: string } | null;
  part: string | null;
  zone: string;
}

/** Everybody of the class: in, or not yet seen. */
export function ClassList({ members, arrived, sinceText, session, part, zone }: Props) {
  const router = useRouter();
  const [since, setSince] = useState(sinceText);
  const look = (event: FormEvent) => {
    event.preventDefault();
    const time = readTypedTime(since);
    if (time !== null && time !== sinceText)
      router.push(linkTo('/courses/now', { in: part, since: time }), { scroll: false });
  };
  const seen = members.map((member) => ({ ...member, at: member.first_in ?? arrived.get(member.learner_id) }));
  const come = seen.filter(({ at }) => at !== undefined).length;
  return (
    <section aria-label="Class list" data-part="class">
      <h2>
        Class list{' '}
        <span className={classes.soft}>
          {session?.id && (
            <>
              <Link href={`/sessions/${encodeURIComponent(session.id)}`}>{session.title}</Link> ·{' '}
            </>
          )}
          {session && !session.id && `${session.title} · `}
          {come} of {members.length} in since
        </span>
        <form className={classes.since} onSubmit={look} onBlur={look}>
          <TimeField size="xs" w={90} aria-label="In since" value={since} onChange={setSince} />
        </form>
      </h2>
      <ul className={classes.class}>
        {seen.map(({ learner_id, name, at }) => (
          <li key={learner_id} data-in={at !== undefined || undefined}>
            <PersonLink learnerId={learner_id} name={name} />
            <span>{at === undefined ? 'not yet seen' : `in ${sayTime(at, zone)}`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
