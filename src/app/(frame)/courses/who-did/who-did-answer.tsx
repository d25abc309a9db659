'use client';

import { Button, Table } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { unpackRows, type PackedRows } from '@/core/rows';
import { sayCount, sayInstant } from '@/core/time/words';
import type { WhoDidRow } from '@/data/item-use/item-use';
import { FormDialog } from '../../../_frame/form-dialog';
import { RowCheck } from '@/ui/row-check';
import { PeopleLayout } from '../../../_people/people-layout';
import { SidePerson } from '../../../_people/side-person';
import { usePeople } from '../../../_people/use-people';
import { saveCheck } from './actions';
import classes from '../courses.module.css';

/** One of the two lists, as far as it is shown. */
interface Part {
  first: PackedRows<WhoDidRow>;
  count: number;
}

interface Props {
  /** The answer as a sentence, and what was asked, in words. */
  says: string;
  deed: string;
  has: Part;
  didNot: Part;
  /** Everybody who has not, shown or not: all of them may be written to. */
  didNotIds: number[];
  /** Where the page shows more of either list; null when it shows as many as it can. */
  more: string | null;
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
export function WhoDidAnswer(props: Props) {
  const { says, deed, has, didNot, didNotIds, more, item, course, logOf, here, today, now, zone } = props;
  const [didNotRows, hasRows] = useMemo(() => [unpackRows(didNot.first), unpackRows(has.first)], [didNot, has]);
  const rows = useMemo(() => [...didNotRows, ...hasRows], [didNotRows, hasRows]);
  const total = didNot.count + has.count;
  const people = useMemo(
    () => rows.map(({ id, learner_id, name }) => ({ id, learnerId: learner_id, name, phone: null })),
    [rows],
  );
  const list = usePeople({ people, today, here, inAddress: true, begin: textFor(item, course) });
  const { selected, setSelected } = list;
  const [keeping, setKeeping] = useState(false);
  const side = (
    <SidePerson list={list} people={rows} place={`${list.cursor + 1} of ${total}`} now={now} zone={zone} asOf={null} />
  );
  const all = didNotIds.length > 0 && didNotIds.every((id) => selected.has(id));
  const line = (row: WhoDidRow, index: number, says: React.ReactNode) => (
    <tr
      key={row.id}
      {...list.rowProps(index)}
      className={classes.person}
      data-current={row.id === list.person?.id || undefined}
      onClick={(event) => {
        if (!(event.target as HTMLElement).closest('a, input')) list.go(index);
      }}
    >
      <td>
        <RowCheck checked={selected.has(row.id)} onChange={() => list.toggle(row.id)} label={`Select ${row.name}`} />
      </td>
      <td>
        <Link href={list.pageOf(people[index])}>
          <bdi>{row.name}</bdi>
        </Link>{' '}
        <span className={classes.soft}>{row.learner_id}</span>
      </td>
      <td>{says}</td>
    </tr>
  );
  return (
    <PeopleLayout list={list} people={people} total={total} side={side} sheetTitle="Who this is">
      {() => (
        <div className={classes.answers}>
          <p className={classes.answer} role="status">
            <strong>{says}</strong>
            <Button variant="default" onClick={() => void copy(says)}>
              Copy as a sentence
            </Button>
            <Button variant="default" onClick={() => setKeeping(true)}>
              Save as a check
            </Button>
            <Link href={logOf}>The events behind it</Link>
          </p>
          <section aria-label="Has not">
            <h2>
              Has not <span className={classes.soft}>{sayCount(didNot.count, 'learner')}</span>
              {didNot.count > 0 && (
                <Button
                  variant="default"
                  size="compact-xs"
                  onClick={() => setSelected(all ? new Set() : new Set(didNotIds))}
                >
                  {all ? 'Select nobody' : 'Select all who have not'}
                </Button>
              )}
            </h2>
            {didNot.count === 0 ? (
              <p>Everybody has.</p>
            ) : (
              <Table horizontalSpacing={6}>
                <Table.Tbody>
                  {didNotRows.map((row, index) => line(row, index, <Otherwise row={row} zone={zone} now={now} />))}
                </Table.Tbody>
              </Table>
            )}
            <More part={didNot} to={more} />
          </section>
          <section aria-label="Has">
            <h2>
              Has <span className={classes.soft}>{sayCount(has.count, 'learner')}</span>
            </h2>
            {has.count === 0 ? (
              <p>Nobody has.</p>
            ) : (
              <Table horizontalSpacing={6}>
                <Table.Tbody>
                  {hasRows.map((row, index) =>
                    line(
                      row,
                      didNotRows.length + index,
                      row.count === 1
                        ? `once, ${sayInstant(row.first!, zone, now)}`
                        : `${sayCount(row.count, 'time')}, ${sayInstant(row.first!, zone, now)} to ${sayInstant(row.last!, zone, now)}`,
                    ),
                  )}
                </Table.Tbody>
              </Table>
            )}
            <More part={has} to={more} />
          </section>
          {keeping && (
            <FormDialog
              title="Save as a check"
              says={`“${deed}” is asked again each day. You are told under Courses when more learners than this have not.`}
              verb="Save"
              fields={[
                { name: 'name', label: 'Name' },
                { name: 'limit', label: 'Tell me when more than this many have not' },
              ]}
              values={{
                name: (item?.title ?? deed).slice(0, 60),
                limit: String(didNot.count),
                query: here.split('?')[1] ?? '',
              }}
              keep={saveCheck}
              onClose={() => setKeeping(false)}
              onDone={() =>
                notifications.show({ title: 'Saved', message: 'It stands under Saved checks and is asked every day.' })
              }
            />
          )}
        </div>
      )}
    </PeopleLayout>
  );
}

/** How many of a list are not shown, and the way to them. */
function More({ part, to }: { part: Part; to: string | null }) {
  const rest = part.count - part.first.values.length;
  if (rest <= 0) return null;
  return (
    <p>
      And {sayCount(rest, 'learner')} more.{' '}
      {to === null ? (
        'Choose a group to see them.'
      ) : (
        <Link href={to} scroll={false}>
          Show more
        </Link>
      )}
    </p>
  );
}

/** When somebody who has not in these days did so at another time. */
function Otherwise({ row, zone, now }: { row: WhoDidRow; zone: string; now: number }) {
  const { before, after } = row;
  if (before === null && after === null) return <span className={classes.soft}>never</span>;
  const says = [
    before !== null ? `earlier, on ${sayInstant(before, zone, now)}` : '',
    after !== null ? `later, on ${sayInstant(after, zone, now)}` : '',
  ];
  return <>not in these days, but {says.filter(Boolean).join(' and ')}</>;
}
