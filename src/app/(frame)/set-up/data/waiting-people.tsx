'use client';

import { NativeSelect, Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { sayCount } from '@/core/time/words';
import type { waitingForNames } from '@/server/imports/waiting';
import { useAction } from '../../../_frame/use-action';
import { settleWaiting } from '../actions';
import classes from './data.module.css';

type Waiting = Awaited<ReturnType<typeof waitingForNames>>[number];

/** People in files whom nobody is known for: said once, for all files and those to come. */
export function WaitingPeople({ people }: { people: Waiting[] }) {
  const { pending, run } = useAction();
  const total = people.reduce((sum, { rows }) => sum + rows, 0);
  return (
    <section aria-label="Who is this?">
      <h2>Who is this?</h2>
      <p className={classes.soft}>
        {sayCount(total, 'row waits', 'rows wait')} for a name. What you say here holds for all files, and for those to
        come.
      </p>
      <PlainTable
        label="People whom nobody is known for"
        heads={['In the files', 'Course', 'Rows', 'Is']}
        verticalSpacing={3}
      >
        {people.map((one) => (
          <Table.Tr key={`${one.courseId}/${one.folded}`}>
            <Table.Td>
              <bdi>{one.person}</bdi>
              <div className={classes.soft}>
                <bdi>{one.files.join(', ')}</bdi>
              </div>
            </Table.Td>
            <Table.Td>{one.course}</Table.Td>
            <Table.Td ta="right">{one.rows.toLocaleString('en-GB')}</Table.Td>
            <Table.Td>
              <NativeSelect
                size="xs"
                miw={150}
                aria-label={`Who ${one.person} is`}
                value=""
                disabled={pending}
                onChange={(event) => {
                  const who = event.currentTarget.value;
                  void run(() => settleWaiting(one.courseId, one.folded, who), { failed: 'It was not settled' });
                }}
                data={[
                  { value: '', label: 'not said yet', disabled: true },
                  ...(one.likely.length > 0 ? [{ group: 'Likely', items: one.likely.map(asChoice) }] : []),
                  ...(one.others.length > 0
                    ? [{ group: 'Others in the course', items: one.others.map(asChoice) }]
                    : []),
                  { value: 'new', label: 'a learner who is not known yet' },
                  { value: 'nobody', label: 'no learner: leave these rows out' },
                ]}
              />
            </Table.Td>
          </Table.Tr>
        ))}
      </PlainTable>
    </section>
  );
}

function asChoice({ id, name, learnerId }: Waiting['likely'][number]) {
  return { value: String(id), label: `${name} (${learnerId})` };
}
