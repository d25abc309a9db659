import { sayDay } from '@/core/time/words';
import type { FoundPerson } from '@/server/trial/pages';
import { Wake } from '@/ui/wake';
import { PersonLink } from '../../../../_people/person-link';
import classes from '../trial.module.css';

interface Props {
  title: string;
  nobody: string;
  people: readonly FoundPerson[];
  /** How many there are in all. */
  all: number;
}

/** People with their wake over the whole course, and when they were listed. */
export function FoundList({ title, nobody, people, all }: Props) {
  return (
    <section className={classes.part}>
      <h2>{title}</h2>
      {all === 0 && <p className={classes.soft}>{nobody}</p>}
      {all > people.length && (
        <p className={classes.soft}>
          {people.length} of them{people.length === 0 && ': the others have left your view'}.
        </p>
      )}
      <ul className={classes.found}>
        {people.map(({ learnerId, name, course, wake, listed, lastDay }) => (
          <li key={`${course} ${learnerId}`}>
            <span>
              <PersonLink learnerId={learnerId} name={name} /> <span className={classes.soft}>{course}</span>
            </span>
            <Wake wake={wake} width={300} span="The course’s" />
            <span className={classes.soft}>
              {lastDay === null ? 'never there' : `last there ${sayDay(lastDay)}`}
              {listed.length > 0 ? ` · listed ${listed.map((day) => sayDay(day)).join(', ')}` : ' · never listed'}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
