'use client';

import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import { sayCount, sayTime } from '@/core/time/words';
import type { Unmatched as UnmatchedName } from '@/server/sessions/session';
import type { UnmatchedRow } from '@/data/sessions/presence-rows';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { settlePerson } from '../actions';
import classes from './session.module.css';

interface Props {
  sessionId: string;
  rows: UnmatchedName[];
  /** Names that were settled as no learner's, or are staff's. */
  others: UnmatchedRow[];
  people: { learnerId: string; name: string; group: string | null }[];
  zone: string;
  namesHidden: boolean;
}

/** Names of the meeting's record that nobody is known for: who it is, or that it is no learner. Remembered in the course. */
export function Unmatched({ sessionId, rows, others, people, zone, namesHidden }: Props) {
  const { pending, run } = useAction();
  const settle = (person: string, as: 'learner' | 'nobody' | 'forget', learnerId = '', says = '') =>
    run(() => settlePerson(sessionId, { person, as, learner_id: learnerId }), {
      failed: 'That was not settled',
      then: () => {
        if (as !== 'forget') offerUndo(says, () => settle(person, 'forget'));
      },
    });
  const nobody = others.filter(({ matched }) => matched === 'nobody');
  const staff = others.filter(({ matched }) => matched === 'staff');
  return (
    <section className={classes.unmatched} aria-label="Names nobody is known for">
      {rows.length > 0 && (
        <>
          <h2>{sayCount(rows.length, 'name')} without a learner</h2>
          {namesHidden && <p>Show names to say who they are.</p>}
          <ul>
            {rows.map((row) => (
              <li key={row.folded}>
                <NameLine row={row} zone={zone} />
                {!namesHidden && (
                  <>
                    {row.proposed && (
                      <Button
                        size="compact-xs"
                        loading={pending}
                        onClick={() =>
                          settle(
                            row.person,
                            'learner',
                            row.proposed!.learner_id,
                            `${row.person} is ${row.proposed!.name}`,
                          )
                        }
                      >
                        It is {row.proposed.name}
                      </Button>
                    )}
                    <Who
                      label={`Who is ${row.person}?`}
                      people={people}
                      onPick={(learnerId, name) => settle(row.person, 'learner', learnerId, `${row.person} is ${name}`)}
                    />
                    <Button
                      variant="default"
                      size="compact-xs"
                      loading={pending}
                      onClick={() => settle(row.person, 'nobody', '', `${row.person} is no learner`)}
                    >
                      Not a learner
                    </Button>
                  </>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      {nobody.length > 0 && (
        <p>
          Not learners:{' '}
          {nobody.map((row) => (
            <span key={row.folded}>
              <bdi>{row.person}</bdi>{' '}
              {!namesHidden && (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  loading={pending}
                  onClick={() => settle(row.person, 'forget')}
                >
                  Open again
                </Button>
              )}
            </span>
          ))}
        </p>
      )}
      {staff.length > 0 && <p>Staff, by their e-mail address: {staff.map(({ person }) => person).join(', ')}.</p>}
    </section>
  );
}

function NameLine({ row, zone }: { row: UnmatchedRow; zone: string }) {
  const until = row.left === null ? '' : ` to ${sayTime(row.left, zone)}`;
  return (
    <span className={classes.who}>
      <strong>
        <bdi>{row.person}</bdi>
      </strong>{' '}
      <span className={classes.soft}>
        {[row.email, `${sayTime(row.entered, zone)}${until}`, row.rows > 1 ? `${row.rows} times` : null]
          .filter(Boolean)
          .join(' · ')}
      </span>
    </span>
  );
}

interface WhoProps {
  label: string;
  people: Props['people'];
  onPick: (learnerId: string, name: string) => void;
}

/** Any learner of the session, found as one types; two of one name are told apart by their ids. */
function Who({ label, people, onPick }: WhoProps) {
  const [value, setValue] = useState<string | null>(null);
  return (
    <Select
      size="xs"
      w={200}
      aria-label={label}
      placeholder="Somebody else…"
      searchable
      value={value}
      data={people.map(({ learnerId, name }) => ({ value: learnerId, label: `${name} · ${learnerId}` }))}
      onChange={(chosen) => {
        setValue(null);
        const one = people.find(({ learnerId }) => learnerId === chosen);
        if (one) onPick(one.learnerId, one.name);
      }}
    />
  );
}
