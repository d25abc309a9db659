import { TextInput } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { sayTime } from '@/core/time/words';
import type { ClassMember } from '@/data/people/enrolments';
import { linkTo } from '../../../_deck/list-link';
import classes from './now.module.css';

interface Props {
  members: ClassMember[];
  /** When those came who have come since the page was opened. */
  arrived: ReadonlyMap<string, number>;
  /** From when it looks. */
  sinceText: string;
  session: string | null;
  part: string | null;
  zone: string;
}

/** Everybody of the class: in, or not yet seen. */
export function ClassList({ members, arrived, sinceText, session, part, zone }: Props) {
  const router = useRouter();
  const seen = members.map((one) => ({ ...one, at: one.first_in ?? arrived.get(one.learner_id) }));
  const come = seen.filter(({ at }) => at !== undefined).length;
  return (
    <section aria-label="Class list" data-part="class">
      <h2>
        Class list{' '}
        <span className={classes.soft}>
          {session && `${session} · `}
          {come} of {members.length} in since
        </span>
        <TextInput
          type="time"
          size="xs"
          w={110}
          aria-label="In since"
          defaultValue={sinceText}
          onKeyDown={(event) => {
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          onBlur={(event) => {
            const since = event.currentTarget.value;
            if (since && since !== sinceText)
              router.push(linkTo('/courses/now', { in: part, since }), { scroll: false });
          }}
        />
      </h2>
      <ul className={classes.class}>
        {seen.map(({ learner_id, name, at }) => (
          <li key={learner_id} data-in={at !== undefined || undefined}>
            <Link href={`/learners/${encodeURIComponent(learner_id)}`}>
              <bdi>{name}</bdi>
            </Link>
            <span>{at === undefined ? 'not yet seen' : `in ${sayTime(at, zone)}`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
