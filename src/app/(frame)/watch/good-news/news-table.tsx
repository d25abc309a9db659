'use client';

import { Checkbox, TableTd, TableTr } from '@mantine/core';
import { useState } from 'react';
import { PRAISE_TO_MANY } from '@/core/good-news/good-news';
import { sayCount } from '@/core/time/words';
import { PlainTable } from '@/ui/plain-table';
import { PersonLink } from '../../../_people/person-link';
import { StartWriting } from '../../write/start-writing';
import classes from '../watch.module.css';

interface Row {
  key: string;
  /** The learner's number. */
  learner: number;
  learnerId: string;
  name: string;
  day: string;
  course: string;
  what: string;
  says: string;
  /** What a message about this begins with. */
  praise: { subject: string; body: string };
}

/** Good news, a row each: praise for one, or for those that are chosen. */
export function NewsTable({ rows, here }: { rows: readonly Row[]; here: string }) {
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const learners = [...new Set(rows.flatMap(({ key, learner }) => (chosen.has(key) ? [learner] : [])))];
  const choose = (key: string, isChosen: boolean) =>
    setChosen((before) => new Set(isChosen ? [...before, key] : [...before].filter((one) => one !== key)));
  return (
    <>
      <div className={classes.chosen}>
        <Checkbox
          label="All on this page"
          checked={chosen.size === rows.length}
          indeterminate={chosen.size > 0 && chosen.size < rows.length}
          onChange={(event) => setChosen(new Set(event.currentTarget.checked ? rows.map(({ key }) => key) : []))}
        />
        <StartWriting
          learners={learners}
          begin={{ ...PRAISE_TO_MANY, is_praise: 'yes' }}
          here={here}
          size="compact-sm"
          disabled={learners.length === 0}
        >
          {learners.length === 0 ? 'Praise the chosen' : `Praise ${sayCount(learners.length, 'learner')}`}
        </StartWriting>
      </div>
      <PlainTable label="Good news" heads={['Chosen', 'Day', 'Learner', 'Course', 'What']} last="Action">
        {rows.map((row) => (
          <TableTr key={row.key}>
            <TableTd>
              <Checkbox
                aria-label={`${row.name}: ${row.what}`}
                checked={chosen.has(row.key)}
                onChange={(event) => choose(row.key, event.currentTarget.checked)}
              />
            </TableTd>
            <TableTd>{row.day}</TableTd>
            <TableTd>
              <PersonLink learnerId={row.learnerId} name={row.name} />
            </TableTd>
            <TableTd>{row.course}</TableTd>
            <TableTd>
              <strong>{row.what}</strong> <span className={classes.soft}>{row.says}</span>
            </TableTd>
            <TableTd>
              <StartWriting
                learners={[row.learner]}
                begin={{ ...row.praise, is_praise: 'yes' }}
                here={here}
                size="compact-sm"
                aria-label={`Write to ${row.name}`}
              >
                Write
              </StartWriting>
            </TableTd>
          </TableTr>
        ))}
      </PlainTable>
    </>
  );
}
