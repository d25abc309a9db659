'use client';

import { Button, Checkbox, Table } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { sayCount, sayInstant } from '@/core/time/words';
import type { DeedRow } from '@/data/reach';
import { FormDialog } from '../../../_deck/form-dialog';
import { PeopleLayout } from '../../../_people/people-layout';
import { SidePerson } from '../../../_people/side-person';
import { usePeople } from '../../../_people/use-people';
import { keepTheCheck } from './actions';
import classes from '../courses.module.css';

interface Props {
  /** The answer as a sentence, and what was asked, in words. */
  says: string;
  deed: string;
  has: DeedRow[];
  hasNot: DeedRow[];
  item: { item_id: string; title: string } | null;
  /** The course's title. */
  course: string;
  /** The events behind the answer. */
  logOf: string;
  here: string;
  today: number;
  now: number;
  zone: string;
}

/** The text a message to those who have not begins from. */
function textFor(item: Props['item'], course: string): { subject: string; body: string } | undefined {
  if (!item) return undefined;
  return {
    subject: `${item.title} in ${course}`.slice(0, 200),
    body: `Dear {{given_name}},\n\n“${item.title}” in ${course} is still waiting for you. If something stands in the way, answer this message and we will find a way.\n\n{{my_name}}`,
  };
}

/** Copies a text; says whether that went well. */
async function copy(text: string) {
  const ok = await navigator.clipboard.writeText(text).then(
    () => true,
    () => false,
  );
  notifications.show(
    ok
      ? { title: 'Copied', message: text }
      : { title: 'The browser did not allow copying. Here it is to copy by hand', message: text, autoClose: false },
  );
}

/** Two lists: those who have not, to write to, and those who have. */
export function HasAnswer({ says, deed, has, hasNot, item, course, logOf, here, today, now, zone }: Props) {
  const rows = useMemo(() => [...hasNot, ...has], [hasNot, has]);
  const people = useMemo(
    () => rows.map(({ id, learner_id, name }) => ({ id, learnerId: learner_id, name, phone: null })),
    [rows],
  );
  const list = usePeople({ people, today, here, inAddress: true, begin: textFor(item, course) });
  const { selected, setSelected } = list;
  const [keeping, setKeeping] = useState(false);
  const side = (
    <SidePerson
      list={list}
      people={rows}
      place={`${list.cursor + 1} of ${rows.length}`}
      now={now}
      zone={zone}
      asOf={null}
    />
  );
  const notIds = hasNot.map(({ id }) => id);
  const all = notIds.length > 0 && notIds.every((id) => selected.has(id));
  const line = (row: DeedRow, index: number, says: React.ReactNode) => (
    <Table.Tr
      key={row.id}
      ref={(element) => {
        list.rows.current[index] = element;
      }}
      className={classes.person}
      data-current={row.id === list.person?.id || undefined}
      onClick={(event) => {
        if (!(event.target as HTMLElement).closest('a, input')) list.go(index);
      }}
    >
      <Table.Td w={30}>
        <Checkbox
          size="xs"
          checked={selected.has(row.id)}
          onChange={() => list.toggle(row.id)}
          aria-label={`Select ${row.name}`}
        />
      </Table.Td>
      <Table.Td>
        <Link href={list.pageOf(people[index])}>
          <bdi>{row.name}</bdi>
        </Link>{' '}
        <span className={classes.soft}>{row.learner_id}</span>
      </Table.Td>
      <Table.Td>{says}</Table.Td>
    </Table.Tr>
  );
  return (
    <PeopleLayout list={list} people={people} total={rows.length} side={side} sheetTitle="Who this is" setAside>
      {() => (
        <div className={classes.answers}>
          <p className={classes.answer} role="status">
            <strong>{says}</strong>
            <Button variant="default" onClick={() => void copy(says)}>
              Copy as a sentence
            </Button>
            <Button variant="default" onClick={() => setKeeping(true)}>
              Keep as a check
            </Button>
            <Link href={logOf}>The events behind it</Link>
          </p>
          <section aria-label="Has not">
            <h2>
              Has not <span className={classes.soft}>{sayCount(hasNot.length, 'learner')}</span>
              {hasNot.length > 0 && (
                <Button
                  variant="default"
                  size="compact-xs"
                  onClick={() => setSelected(all ? new Set() : new Set(notIds))}
                >
                  {all ? 'Select nobody' : 'Select all who have not'}
                </Button>
              )}
            </h2>
            {hasNot.length === 0 ? (
              <p>Everybody has.</p>
            ) : (
              <Table fz={13} verticalSpacing={4} horizontalSpacing={6}>
                <Table.Tbody>
                  {hasNot.map((row, index) => line(row, index, <Otherwise row={row} zone={zone} now={now} />))}
                </Table.Tbody>
              </Table>
            )}
          </section>
          <section aria-label="Has">
            <h2>
              Has <span className={classes.soft}>{sayCount(has.length, 'learner')}</span>
            </h2>
            {has.length === 0 ? (
              <p>Nobody has.</p>
            ) : (
              <Table fz={13} verticalSpacing={4} horizontalSpacing={6}>
                <Table.Tbody>
                  {has.map((row, index) =>
                    line(
                      row,
                      hasNot.length + index,
                      row.count === 1
                        ? `once, ${sayInstant(row.first!, zone, now)}`
                        : `${sayCount(row.count, 'time')}, ${sayInstant(row.first!, zone, now)} to ${sayInstant(row.last!, zone, now)}`,
                    ),
                  )}
                </Table.Tbody>
              </Table>
            )}
          </section>
          {keeping && (
            <FormDialog
              title="Keep as a check"
              says={`“${deed}” is asked again each day. You are told under Courses when more learners than this have not.`}
              verb="Keep"
              fields={[
                { name: 'name', label: 'Name' },
                { name: 'limit', label: 'Tell me when more than this many have not' },
              ]}
              values={{ name: (item?.title ?? deed).slice(0, 60), limit: String(hasNot.length) }}
              keep={(form) => keepTheCheck({ ...form, query: here.split('?')[1] ?? '' })}
              onClose={() => setKeeping(false)}
              onDone={() =>
                notifications.show({ title: 'Kept', message: 'It stands under Saved checks and is asked every day.' })
              }
            />
          )}
        </div>
      )}
    </PeopleLayout>
  );
}

/** When somebody who has not in these days did so at another time. */
function Otherwise({ row, zone, now }: { row: DeedRow; zone: string; now: number }) {
  const { before, after } = row;
  if (before === null && after === null) return <span className={classes.soft}>never</span>;
  const says = [
    before !== null ? `earlier, on ${sayInstant(before, zone, now)}` : '',
    after !== null ? `later, on ${sayInstant(after, zone, now)}` : '',
  ];
  return <>not in these days, but {says.filter(Boolean).join(' and ')}</>;
}
