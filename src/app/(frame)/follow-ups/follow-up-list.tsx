'use client';

import { Button, Checkbox, Kbd, Menu, Modal, Popover, Stack } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useMemo, useState } from 'react';
import { FOLLOW_UP_WORDS, OUTCOMES, OUTCOME_NAMES, type Outcome } from '@/core/contact/follow-up';
import { sayDay, sayInstant } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import type { FollowUpShown } from '@/server/contact/follow-ups';
import { DayField } from '../../_frame/day-field';
import { PeopleLayout } from '../../_people/people-layout';
import { SidePerson } from '../../_people/side-person';
import { usePeople } from '../../_people/use-people';
import { closeFollowUp, handOverFollowUp, moveFollowUp, reopenFollowUp, colleaguesForFollowUp } from './actions';
import classes from './follow-ups.module.css';

interface Props {
  rows: FollowUpShown[];
  /** Place of the first of them, and how many there are in all. */
  offset: number;
  total: number;
  today: number;
  now: number;
  zone: string;
  here: string;
}

/** What was promised, by its day, with the person under the cursor explained at the right. */
export function FollowUpList({ rows, offset, total, today, now, zone, here }: Props) {
  const [closing, setClosing] = useState<FollowUpShown | null>(null);
  const people = useMemo(
    () =>
      rows.map((followUp) => ({
        id: followUp.person,
        row: followUp.id,
        learnerId: followUp.learner_id,
        name: followUp.name,
        phone: followUp.phone,
        followUp,
      })),
    [rows],
  );
  const list = usePeople({ people, today, here, onFollowUp: ({ followUp }) => setClosing(followUp) });
  const current = list.person?.followUp;
  const end = (row: FollowUpShown, outcome: Outcome) =>
    list.start(async () => {
      const result = await closeFollowUp(row.id, outcome);
      setClosing(null);
      if (!result.ok) notifications.show({ title: 'It was not closed', message: result.says, color: 'red' });
      else list.done(`${row.name}: ${OUTCOMES[outcome].says}`, () => reopenFollowUp(row.id), 'Open again');
    });
  const side = (
    <>
      {current && <Promised row={current} today={today} />}
      <SidePerson
        list={list}
        people={people}
        place={`${offset + list.cursor + 1} of ${total}`}
        now={now}
        zone={zone}
        asOf={null}
      />
    </>
  );
  return (
    <>
      <PeopleLayout list={list} people={people} total={total} side={side} sheetTitle="Follow-up">
        {(show) => (
          <ul className={classes.list} aria-label="Follow-ups">
            {rows.map((row, index) => (
              <li
                key={row.id}
                {...list.rowProps(index)}
                className={classes.row}
                data-current={row === current || undefined}
              >
                <Checkbox
                  size="xs"
                  checked={list.selected.has(row.person)}
                  onChange={() => list.toggle(row.person)}
                  aria-label={`Select ${row.name}`}
                />
                <button
                  type="button"
                  className={classes.name}
                  aria-current={row === current ? 'true' : undefined}
                  onClick={() => {
                    list.go(index);
                    show();
                  }}
                >
                  <strong>
                    <bdi>{row.name}</bdi>
                  </strong>
                  <span>
                    {row.learner_id} · <bdi>{row.reason}</bdi>
                  </span>
                </button>
                <span className={classes.due} data-state={row.state}>
                  <strong>{FOLLOW_UP_WORDS[row.state]}</strong>
                  <span>
                    {row.state === 'came_back' && row.first_after !== null
                      ? sayInstant(row.first_after, zone, now)
                      : sayDay(row.due_day, today)}
                  </span>
                </span>
                <span className={classes.owner}>{row.owner}</span>
                <span className={classes.actions}>
                  <Button variant="default" size="compact-xs" onClick={() => setClosing(row)}>
                    Close…
                  </Button>
                  <MoveDate row={row} />
                  <HandOver row={row} />
                </span>
              </li>
            ))}
          </ul>
        )}
      </PeopleLayout>
      <CloseDialog row={closing} pending={list.pending} onClose={() => setClosing(null)} onEnd={end} />
    </>
  );
}

/** What was promised, and what the drift said then. */
function Promised({ row, today }: { row: FollowUpShown; today: number }) {
  const { snapshot } = row;
  return (
    <section className={classes.promise}>
      <h2>
        <bdi>{row.reason}</bdi>
      </h2>
      <div className={classes.soft}>
        {row.owner} · follow up on {sayDay(row.due_day, today)}
      </div>
      <div className={classes.soft}>
        Then: {snapshot.band}
        {snapshot.drift !== null && `, drift ${Math.round(snapshot.drift)}`}
        {snapshot.says.length > 0 && ` · ${snapshot.says.join(' · ')}`}
      </div>
    </section>
  );
}

interface CloseProps {
  row: FollowUpShown | null;
  pending: boolean;
  onClose: () => void;
  onEnd: (row: FollowUpShown, outcome: Outcome) => void;
}

/** Asks what came of it; one key answers. */
function CloseDialog({ row, pending, onClose, onEnd }: CloseProps) {
  useHotkeys(
    row
      ? OUTCOME_NAMES.map((outcome) => [OUTCOMES[outcome].key, () => onEnd(row, outcome)] as [string, () => void])
      : [],
  );
  return (
    <Modal opened={row !== null} onClose={onClose} title={`What came of it: ${row?.name ?? ''}`}>
      <Stack gap={8}>
        {OUTCOME_NAMES.map((outcome, index) => (
          <Button
            key={outcome}
            variant="default"
            justify="space-between"
            loading={pending}
            data-autofocus={index === 0 || undefined}
            rightSection={<Kbd size="xs">{OUTCOMES[outcome].key}</Kbd>}
            onClick={() => row && onEnd(row, outcome)}
          >
            {OUTCOMES[outcome].says}
          </Button>
        ))}
      </Stack>
    </Modal>
  );
}

function MoveDate({ row }: { row: FollowUpShown }) {
  const [opened, setOpened] = useState(false);
  const [due, setDue] = useState(dateOfDay(row.due_day));
  const [trouble, setTrouble] = useState<string | null>(null);
  const keep = async () => {
    const result = await moveFollowUp(row.id, due);
    setTrouble(result.ok ? null : result.says);
    if (result.ok) setOpened(false);
  };
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus shadow="md">
      <Popover.Target>
        <Button variant="default" size="compact-xs" onClick={() => setOpened(!opened)}>
          Another day
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <DayField label="Follow up on" value={due} error={trouble} onChange={setDue} nested />
        <Button mt="xs" onClick={keep}>
          Save
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

/** Colleagues who see the learner too, asked for when the menu opens. */
function HandOver({ row }: { row: FollowUpShown }) {
  const [colleagues, setColleagues] = useState<{ id: number; name: string; role: string }[] | null>(null);
  const give = async (id: number, name: string) => {
    const result = await handOverFollowUp(row.id, id);
    notifications.show(
      result.ok
        ? { title: `Handed over to ${name}`, message: row.name }
        : { title: 'It was not handed over', message: result.says, color: 'red' },
    );
  };
  return (
    <Menu position="bottom-end" shadow="md" onOpen={() => void colleaguesForFollowUp(row.id).then(setColleagues)}>
      <Menu.Target>
        <Button variant="default" size="compact-xs">
          Hand over
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        {colleagues === null && <Menu.Label>Who sees them …</Menu.Label>}
        {colleagues?.length === 0 && <Menu.Label>Nobody else sees this learner</Menu.Label>}
        {colleagues?.map((colleague) => (
          <Menu.Item
            key={colleague.id}
            rightSection={colleague.role}
            onClick={() => void give(colleague.id, colleague.name)}
          >
            {colleague.name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
