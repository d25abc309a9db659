'use client';

import { Button, Group, Table } from '@mantine/core';
import { MESSAGE_STATE_WORDS } from '@/core/contact/message-state';
import type { MessageLine } from '@/server/contact/messages-list';
import type { Params } from '@/server/request/list';
import { PersonLink } from '../../../_people/person-link';
import { Gap, MoreRows } from '../../../_list/rows';
import { useEndless } from '../../../_list/use-endless';
import { useVirtualRows } from '../../../_list/use-virtual-rows';
import { useAction } from '../../../_frame/use-action';
import { revoke, settle } from '../../write/actions';
import classes from './messages.module.css';

interface Props {
  lines: MessageLine[];
  titles: readonly string[];
  /** The place after which the list goes on; null at its end. */
  next: string | null;
  params: Params;
  here: string;
}

/** Height of a row in px, until it is drawn. */
const ROW_HEIGHT = 52;

/** Messages, newest first, going on as one scrolls, each with what can be done about it. */
export function MessageList({ lines, titles, next, params, here }: Props) {
  const { all, goesOn, more, failed, load } = useEndless(lines, next, '/lists/messages/rows', params);
  const virtual = useVirtualRows(all.length, ROW_HEIGHT);
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Messages">
      <Table stickyHeader>
        <Table.Thead>
          <Table.Tr>
            {titles.map((title) => (
              <Table.Th key={title}>{title}</Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody ref={virtual.body}>
          <Gap height={virtual.above} columns={titles.length} />
          {virtual.places.map((place) => {
            const line = all[place];
            return (
              <Table.Tr key={line.id} {...virtual.row(place)}>
                <Table.Td>
                  <PersonLink learnerId={line.learnerId} name={line.name} />
                  <div className={classes.soft}>{line.learnerId}</div>
                  {line.receiver && (
                    <div>
                      to <bdi>{line.receiver}</bdi>
                    </div>
                  )}
                </Table.Td>
                <Table.Td>
                  <bdi>{line.subject}</bdi>
                  <div className={classes.soft}>{line.channel}</div>
                </Table.Td>
                <Table.Td>
                  <strong data-state={line.state} className={classes.state}>
                    {MESSAGE_STATE_WORDS[line.state]}
                  </strong>{' '}
                  {line.says}
                  {line.error && <div className={classes.soft}>{line.error}</div>}
                  {line.link && <div className={classes.soft}>{line.link}</div>}
                  {line.isLinkGood && <Revoke id={line.id} />}
                  <Settle line={line} here={here} />
                </Table.Td>
                <Table.Td>
                  {line.written}
                  <div className={classes.soft}>{line.by}</div>
                </Table.Td>
              </Table.Tr>
            );
          })}
          <Gap height={virtual.below} columns={titles.length} />
        </Table.Tbody>
      </Table>
      {goesOn && <MoreRows more={more} failed={failed} load={load} says="Older messages …" />}
    </div>
  );
}

/** Takes a page back that went as a link. */
function Revoke({ id }: { id: number }) {
  const { run, pending } = useAction();
  return (
    <Button
      variant="default"
      size="compact-xs"
      loading={pending}
      onClick={() => run(() => revoke(id), { done: 'The link works no more' })}
    >
      Revoke the link
    </Button>
  );
}

/** What somebody can do about a message that has not arrived for certain. */
function Settle({ line, here }: { line: MessageLine; here: string }) {
  if (line.state !== 'unsure' && line.state !== 'failed' && line.state !== 'bounced') return null;
  return (
    <form action={settle}>
      <input type="hidden" name="id" value={line.id} />
      <input type="hidden" name="back" value={here} />
      <Group gap={6} mt={4}>
        <Button type="submit" name="as" value="again" variant="default" size="compact-xs">
          Send again
        </Button>
        {line.state === 'unsure' && (
          <Button type="submit" name="as" value="sent" variant="default" size="compact-xs">
            It arrived
          </Button>
        )}
      </Group>
    </form>
  );
}
