'use client';

import { Button, CloseButton, Menu, Table } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import { SCOPE_KINDS, STAFF_ROLES, sayScope } from '@/core/staff/roles';
import { sayDaysAgo, sayInstant } from '@/core/time/words';
import type { ScopeRow, StaffRow } from '@/data/staff/staff-accounts';
import type { FormOf } from '@/server/request/input';
import type { NewPasswordInput } from '@/server/staff/new-password';
import type { ScopeInput, StaffInput } from '@/server/staff/staff-accounts';
import { FormDialog } from '../../../_frame/form-dialog';
import type { Field } from '../../../_frame/form-field';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import {
  addStaff,
  changeStaff,
  endStaff,
  givePassword,
  giveScope,
  inviteStaff,
  letGoOfIdentity,
  resetSecond,
  takeBackInvitation,
  takeScope,
} from '../actions';
import classes from '../set-up.module.css';

const FIELDS: Field<FormOf<StaffInput>>[] = [
  { name: 'given_name', label: 'Given name' },
  { name: 'family_name', label: 'Family name' },
  { name: 'email', label: 'E-mail', type: 'email' },
  { name: 'role', label: 'Role', type: 'choice', choices: STAFF_ROLES.map((role) => ({ value: role, label: role })) },
];

interface Props {
  staff: StaffRow[];
  targets: Record<string, string[]>;
  mayChange: boolean;
  now: number;
  zone: string;
}

type Doing =
  | { what: 'edit' | 'scope' | 'password' | 'second' | 'end'; who: StaffRow }
  | { what: 'take'; who: StaffRow; scope: ScopeRow }
  | { what: 'add' };

/** Accounts, roles and scopes. */
export function StaffList({ staff, targets, mayChange, now, zone }: Props) {
  const [doing, setDoing] = useState<Doing | null>(null);
  const close = () => setDoing(null);
  const { run } = useAction();
  return (
    <>
      {mayChange ? (
        <Button onClick={() => setDoing({ what: 'add' })}>Add a member of staff</Button>
      ) : (
        <p>Names are hidden: show them to change accounts.</p>
      )}
      <PlainTable label="Staff" mt="sm" heads={['Name', 'Role', 'Sees', 'Signs in']} last="Actions">
        {staff.map((one) => (
          <Table.Tr key={one.id} className={one.ended_at === null ? undefined : classes.ended}>
            <Table.Td>
              <strong>
                <bdi>{one.name}</bdi>
              </strong>
              <div className={classes.soft}>{one.email}</div>
            </Table.Td>
            <Table.Td>{one.role}</Table.Td>
            <Table.Td>
              {one.scopes.length === 0 && <span className={classes.soft}>nobody</span>}
              {one.scopes.map((scope) => (
                <Scope
                  key={scope.id}
                  scope={scope}
                  onTake={mayChange ? () => setDoing({ what: 'take', who: one, scope }) : null}
                />
              ))}
            </Table.Td>
            <Table.Td>
              {saySignIn(one)}
              <Invitation one={one} now={now} zone={zone} />
            </Table.Td>
            <Table.Td>
              {mayChange && (
                <Menu position="bottom-end" shadow="md">
                  <Menu.Target>
                    <Button variant="default" size="compact-xs">
                      Change
                    </Button>
                  </Menu.Target>
                  <Menu.Dropdown>
                    <Menu.Item onClick={() => setDoing({ what: 'edit', who: one })}>Name, e-mail, role…</Menu.Item>
                    <Menu.Item onClick={() => setDoing({ what: 'scope', who: one })}>Give a scope…</Menu.Item>
                    {one.ended_at === null && (
                      <Menu.Item
                        onClick={() => run(() => inviteStaff(one.id), { done: `${one.name} is invited by mail` })}
                      >
                        {isOpen(one.invitation, now) ? 'Invite once more' : 'Invite by mail'}
                      </Menu.Item>
                    )}
                    {isOpen(one.invitation, now) && (
                      <Menu.Item
                        onClick={() =>
                          run(() => takeBackInvitation(one.id), { done: 'Taken back: the link is good no more' })
                        }
                      >
                        Take the invitation back
                      </Menu.Item>
                    )}
                    <Menu.Item onClick={() => setDoing({ what: 'password', who: one })}>Set a password…</Menu.Item>
                    {one.has_second && (
                      <Menu.Item onClick={() => setDoing({ what: 'second', who: one })}>
                        Take the second factor off…
                      </Menu.Item>
                    )}
                    {one.by_provider && (
                      <Menu.Item
                        onClick={() =>
                          run(() => letGoOfIdentity(one.id), {
                            done: `${one.name} is known anew at the next sign-in by the service`,
                          })
                        }
                      >
                        Let go of who the service says they are
                      </Menu.Item>
                    )}
                    {one.ended_at === null ? (
                      <Menu.Item onClick={() => setDoing({ what: 'end', who: one })}>End the account…</Menu.Item>
                    ) : (
                      <Menu.Item
                        onClick={() =>
                          run(() => endStaff(one.id, false), {
                            done: `${one.name}’s account is open again`,
                            undo: () => endStaff(one.id, true),
                          })
                        }
                      >
                        Open the account again
                      </Menu.Item>
                    )}
                  </Menu.Dropdown>
                </Menu>
              )}
            </Table.Td>
          </Table.Tr>
        ))}
      </PlainTable>
      {doing?.what === 'add' && (
        <FormDialog
          title="Add a member of staff"
          fields={FIELDS}
          values={{ role: 'mentor' }}
          verb="Add"
          keep={addStaff}
          onClose={close}
          onDone={() =>
            notifications.show({
              title: 'Added',
              message: 'Give them a scope and invite them, so that they can begin.',
            })
          }
        />
      )}
      {doing?.what === 'edit' && (
        <FormDialog
          title={doing.who.name}
          fields={FIELDS}
          values={detailsOf(doing.who)}
          verb="Save"
          keep={(form: FormOf<StaffInput>) => changeStaff(doing.who.id, form)}
          onClose={close}
        />
      )}
      {doing?.what === 'scope' && <ScopeDialog who={doing.who} targets={targets} onClose={close} />}
      {doing?.what === 'take' && (
        <FormDialog
          title={`Take a scope of ${doing.who.name}?`}
          says={`${doing.who.name} no longer sees ${sayScope(doing.scope)}, from now on.`}
          fields={[]}
          values={{}}
          verb="Take it"
          keep={() => takeScope(doing.who.id, doing.scope.id)}
          onClose={close}
          onDone={() =>
            offerUndo(`${doing.who.name} no longer sees ${sayScope(doing.scope)}`, () =>
              run(() => giveScope(doing.who.id, doing.scope), { done: 'Given back' }),
            )
          }
        />
      )}
      {doing?.what === 'end' && (
        <FormDialog
          title={`End the account of ${doing.who.name}?`}
          says={`${doing.who.name} is signed out at once, and the addresses of their calendars end. What they did stays.`}
          fields={[]}
          values={{}}
          verb="End it"
          keep={() => endStaff(doing.who.id, true)}
          onClose={close}
          onDone={() =>
            offerUndo(`${doing.who.name}’s account has ended`, () =>
              run(() => endStaff(doing.who.id, false), { done: 'Open again' }),
            )
          }
        />
      )}
      {doing?.what === 'second' && (
        <FormDialog
          title={`Take the second factor of ${doing.who.name} off?`}
          says="For somebody who has lost it: make sure that it is them who ask. They are signed out everywhere, and sign in with their password alone until they set up another."
          fields={[]}
          values={{}}
          verb="Take it off"
          keep={() => resetSecond(doing.who.id)}
          onClose={close}
        />
      )}
      {doing?.what === 'password' && (
        <FormDialog
          title={`Password of ${doing.who.name}`}
          says="They are signed out everywhere. Tell them the password in person or by telephone."
          fields={[{ name: 'password', label: 'Password', type: 'password', description: '12 characters or more.' }]}
          values={{ password: '' }}
          verb="Set it"
          keep={(form: FormOf<NewPasswordInput>) => givePassword(doing.who.id, form)}
          onClose={close}
        />
      )}
    </>
  );
}

function saySignIn({ ended_at, signs_in, has_second, by_provider }: StaffRow): string {
  if (ended_at !== null) return 'ended';
  if (by_provider) return 'by another service';
  if (!signs_in) return 'no password yet';
  return has_second ? 'yes, with a second factor' : 'yes';
}

/** Is it on its way, or good still? */
function isOpen(invitation: StaffRow['invitation'], now: number): boolean {
  if (invitation === null || invitation.used_at !== null || invitation.ended_at !== null) return false;
  return invitation.sent_at === null || invitation.expires_at! > now;
}

/** What became of the newest invitation, where that still says something. */
function Invitation({ one, now, zone }: { one: StaffRow; now: number; zone: string }) {
  const { invitation, ended_at } = one;
  if (invitation === null || invitation.used_at !== null || ended_at !== null) return null;
  const { sent_at, expires_at, error } = invitation;
  if (error !== null) return <div className={classes.soft}>{error}</div>;
  if (invitation.ended_at !== null || (one.signs_in && !isOpen(invitation, now))) return null;
  if (sent_at === null) return <div className={classes.soft}>the invitation is on its way</div>;
  return (
    <div className={classes.soft}>
      {isOpen(invitation, now)
        ? `invited ${sayDaysAgo(sent_at, now, zone)}, until ${sayInstant(expires_at!, zone, now)}`
        : `an invitation ran out ${sayInstant(expires_at!, zone, now)}`}
    </div>
  );
}

function Scope({ scope, onTake }: { scope: ScopeRow; onTake: (() => void) | null }) {
  const says = sayScope(scope);
  return (
    <span className={classes.scope}>
      {says}
      {onTake && <CloseButton size="xs" aria-label={`Take the scope ${says}`} onClick={onTake} />}
    </span>
  );
}

function detailsOf({ given_name, family_name, email, role }: StaffRow): FormOf<StaffInput> {
  return { given_name, family_name, email, role };
}

function ScopeDialog({ who, targets, onClose }: { who: StaffRow; targets: Props['targets']; onClose: () => void }) {
  return (
    <FormDialog
      title={`A scope for ${who.name}`}
      fields={[
        {
          name: 'kind',
          label: 'They see',
          type: 'choice',
          choices: SCOPE_KINDS.map((kind) => ({ value: kind, label: SAYS[kind] })),
        },
        { name: 'target', label: 'Which', type: 'offers', offers: ({ kind }) => targets[kind] ?? [] },
      ]}
      values={{ kind: 'course' }}
      verb="Give"
      keep={(form: FormOf<ScopeInput>) => giveScope(who.id, form)}
      onClose={onClose}
    />
  );
}

const SAYS: Record<(typeof SCOPE_KINDS)[number], string> = {
  all: 'everyone',
  organisation: 'an organisation’s people, in all their courses',
  course: 'a course',
  group: 'a group (COURSE/GROUP)',
  learner: 'one learner (by id)',
};
