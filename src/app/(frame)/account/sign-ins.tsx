'use client';

import { Button, Table } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { sayDaysAgo, sayInstant } from '@/core/time/words';
import type { OwnSignIn } from '@/server/staff/own-account';
import { FormButton } from '../../_frame/form-button';
import type { Result } from '@/server/request/action';
import { useAction } from '../../_frame/use-action';
import { changeOwnPassword, endOtherSignIns, endOwnSignIn } from './actions';

interface Props {
  signIns: OwnSignIn[];
  now: number;
  zone: string;
}

/** Where one is signed in, each with a way to end it. */
export function SignIns({ signIns, now, zone }: Props) {
  const { pending, run } = useAction();
  const end = (work: () => Promise<Result>, done: string) => run(work, { done, failed: 'It was not ended' });
  return (
    <>
      <Table w="auto">
        <Table.Thead>
          <Table.Tr>
            <Table.Th>Browser</Table.Th>
            <Table.Th>Signed in</Table.Th>
            <Table.Th>Last used</Table.Th>
            <Table.Th />
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {signIns.map(({ handle, agent, since, seen, here }) => (
            <Table.Tr key={handle}>
              <Table.Td>{agent}</Table.Td>
              <Table.Td>{sayInstant(since, zone, now)}</Table.Td>
              <Table.Td>{here ? 'now' : sayDaysAgo(seen, now, zone)}</Table.Td>
              <Table.Td>
                {here ? (
                  <strong>this one</strong>
                ) : (
                  <Button
                    variant="default"
                    size="compact-xs"
                    loading={pending}
                    aria-label={`End the sign-in of ${agent}, ${sayInstant(since, zone, now)}`}
                    onClick={() => end(() => endOwnSignIn(handle), 'Ended')}
                  >
                    End
                  </Button>
                )}
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {signIns.length > 1 && (
        <Button
          mt="sm"
          variant="default"
          loading={pending}
          onClick={() => end(endOtherSignIns, 'All others are ended')}
        >
          End all others
        </Button>
      )}
    </>
  );
}

/** Changes one's own password, for the one there is. */
export function ChangePassword() {
  return (
    <FormButton
      label="Change the password…"
      title="Change the password"
      says="Every other sign-in of yours ends."
      verb="Change"
      fields={[
        { name: 'current', label: 'The password you have now', type: 'password' },
        { name: 'password', label: 'The new one', type: 'password', description: 'At least 12 characters' },
      ]}
      values={{}}
      keep={changeOwnPassword}
      onDone={() => notifications.show({ title: 'Your password is changed', message: '' })}
    />
  );
}
