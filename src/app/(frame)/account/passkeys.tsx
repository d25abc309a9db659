'use client';

import { Table } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { sayDaysAgo, sayInstant } from '@/core/time/words';
import type { Result } from '@/server/request/action';
import type { FormOf } from '@/server/request/input';
import type { NewPasskeyInput, OwnPasskey } from '@/server/staff/passkeys';
import type { OwnPasswordAgain } from '@/server/staff/second-factor';
import { useInBrowser } from '@/ui/in-browser';
import { makePasskey } from '@/ui/passkey';
import { FormButton } from '../../_frame/form-button';
import { keepPasskey, offerPasskey, removePasskey } from './actions';

interface Props {
  passkeys: OwnPasskey[];
  /** Why none can be used at this address; null where one can. */
  without: string | null;
  now: number;
  zone: string;
}

const CURRENT = { name: 'current' as const, label: 'The password you have now', type: 'password' as const };

/** One's passkeys, each with a way to take it off, and a way to make one on this device. */
export function Passkeys({ passkeys, without, now, zone }: Props) {
  const isKnown = useInBrowser(() => typeof window.PublicKeyCredential === 'function');
  return (
    <>
      {passkeys.length > 0 && (
        <Table w="auto" mt="sm">
          <Table.Thead>
            <Table.Tr>
              <Table.Th>Passkey</Table.Th>
              <Table.Th>Made</Table.Th>
              <Table.Th>Last used</Table.Th>
              <Table.Th aria-label="Actions" />
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {passkeys.map(({ id, name, made_at, used_at }) => (
              <Table.Tr key={id}>
                <Table.Td>
                  <bdi>{name}</bdi>
                </Table.Td>
                <Table.Td>{sayInstant(made_at, zone, now)}</Table.Td>
                <Table.Td>{used_at === null ? 'never' : sayDaysAgo(used_at, now, zone)}</Table.Td>
                <Table.Td>
                  <FormButton
                    label="Take it off…"
                    button={{ size: 'compact-xs', 'aria-label': `Take the passkey ${name} off…` }}
                    title={`Take the passkey ${name} off`}
                    says="It lets nobody in any more, also where the telephone is lost."
                    fields={[CURRENT]}
                    values={{}}
                    verb="Take it off"
                    keep={(values: FormOf<OwnPasswordAgain>) => removePasskey(id, values)}
                  />
                </Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      )}
      <p>
        A passkey lets you in by the finger, face or number that opens this device, without a password.
        {without !== null && ` ${without}`}
      </p>
      {without === null && isKnown && (
        <FormButton
          label="Make a passkey…"
          title="Make a passkey on this device"
          says="Your device asks you next."
          fields={[
            {
              name: 'name',
              label: 'What to call it',
              description: 'Such as “my telephone”; left empty, the browser’s name',
            },
            CURRENT,
          ]}
          values={{}}
          verb="Go on"
          keep={async (values: FormOf<NewPasskeyInput>): Promise<Result> => {
            const says = await makePasskey(offerPasskey, (answer) => keepPasskey(answer, values));
            return says === null ? { ok: true, value: undefined } : { ok: false, says, errors: [] };
          }}
          onDone={() => notifications.show({ title: 'The passkey is kept', message: '' })}
        />
      )}
    </>
  );
}
