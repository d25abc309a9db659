'use client';

import { Button, Checkbox, Group } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import { STAFF_ROLES } from '@/core/staff/roles';
import { sayCount } from '@/core/time/words';
import { useAction } from '../../../_frame/use-action';
import { setSecondRoles } from '../actions';
import classes from '../set-up.module.css';

/** Of which roles a second factor is asked for. */
export function SecondRoles({ roles }: { roles: readonly string[] }) {
  const [chosen, setChosen] = useState<string[]>([...roles]);
  const { pending, run } = useAction();
  const isSame = chosen.length === roles.length && chosen.every((role) => roles.includes(role));
  return (
    <>
      <p className={classes.soft}>
        Whoever has one of these roles shows a code of an app, or a passkey, beside the password. Those who have none
        are signed out, and set one up as they sign in again.
      </p>
      <Checkbox.Group aria-label="Ask for a second factor of" value={chosen} onChange={setChosen}>
        <Group gap={16} my="xs">
          {STAFF_ROLES.map((role) => (
            <Checkbox key={role} value={role} label={role} />
          ))}
          <Button
            size="compact-sm"
            disabled={isSame}
            loading={pending}
            onClick={() =>
              run(() => setSecondRoles(chosen), {
                then: (out) =>
                  notifications.show({
                    title: 'Set',
                    message: out > 0 ? `${sayCount(out, 'person', 'people')} signed out` : '',
                  }),
              })
            }
          >
            Set
          </Button>
        </Group>
      </Checkbox.Group>
    </>
  );
}
