'use client';

import { Button, Checkbox, Table } from '@mantine/core';
import { useState } from 'react';
import { sayCount } from '@/core/time/words';
import type { EndInput } from '@/server/people/roster-input';
import type { FormOf } from '@/server/request/input';
import { PersonLink } from '../../../_people/person-link';
import { FormDialog } from '../../../_frame/form-dialog';
import { endEnrolments } from '../../learners/[learnerId]/actions';
import { ENDING, toldEnded } from '../../learners/[learnerId]/enrolment-actions';
import classes from '../set-up.module.css';

interface Row {
  enrolment: number;
  learner_id: string;
  name: string;
  course: string;
  group: string | null;
  enrolled: string;
  by_hand: number;
}

/** Enrolments that the last file did not have, with one button to end them. */
export function MissingList({ rows }: { rows: Row[] }) {
  // Whoever was added by hand was in no file: they are not chosen from the start.
  const [chosen, setChosen] = useState<ReadonlySet<number>>(
    new Set(rows.filter((row) => !row.by_hand).map((row) => row.enrolment)),
  );
  const [ending, setEnding] = useState(false);
  const ids = rows.map((row) => row.enrolment).filter((id) => chosen.has(id));
  const toggle = (id: number) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="Not in the last file">
        <Table>
          <Table.Thead>
            <Table.Tr>
              <Table.Th w={30}>
                <Checkbox
                  size="xs"
                  aria-label="Choose all"
                  checked={ids.length === rows.length}
                  indeterminate={ids.length > 0 && ids.length < rows.length}
                  onChange={() =>
                    setChosen(new Set(ids.length === rows.length ? [] : rows.map((row) => row.enrolment)))
                  }
                />
              </Table.Th>
              {['Learner', 'Course', 'Group', 'Enrolled', 'How they came'].map((title) => (
                <Table.Th key={title}>{title}</Table.Th>
              ))}
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {rows.map((row) => (
              <Table.Tr key={row.enrolment}>
                <Table.Td>
                  <Checkbox
                    size="xs"
                    aria-label={`Choose ${row.name}, ${row.course}`}
                    checked={chosen.has(row.enrolment)}
                    onChange={() => toggle(row.enrolment)}
                  />
                </Table.Td>
                <Table.Td>
                  <PersonLink learnerId={row.learner_id} name={row.name} />{' '}
                  <span className={classes.soft}>{row.learner_id}</span>
                </Table.Td>
                <Table.Td>{row.course}</Table.Td>
                <Table.Td>{row.group ?? '–'}</Table.Td>
                <Table.Td>{row.enrolled}</Table.Td>
                <Table.Td>{row.by_hand ? 'by hand' : 'by an earlier file'}</Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </div>
      <Button mt="sm" disabled={ids.length === 0} onClick={() => setEnding(true)}>
        End {sayCount(ids.length, 'enrolment')}
      </Button>
      {ending && (
        <FormDialog
          title={`End ${sayCount(ids.length, 'enrolment')}?`}
          says="Their log, messages and notes stay. It can be undone for ten seconds, and each can be enrolled again later."
          fields={ENDING}
          values={{ status: 'withdrawn', ended_on: '' }}
          verb="End them"
          keep={(form: FormOf<EndInput>) => endEnrolments(ids, form)}
          onClose={() => setEnding(false)}
          onDone={toldEnded}
        />
      )}
    </>
  );
}
