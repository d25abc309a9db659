'use client';

import { Button, Group, TableTd, TableTr } from '@mantine/core';
import type { FormOf } from '@/server/request/input';
import type { ClaimRuleInput } from '@/server/staff/provider/rules';
import { PlainTable } from '@/ui/plain-table';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { addClaimRule, removeClaimRule, setOnlyByProvider } from '../actions';
import classes from '../set-up.module.css';

interface Props {
  rules: { id: number; says: string }[];
  /** What a rule may give. */
  gives: string[];
  targets: Record<string, string[]>;
  /** Leads who have a password. */
  leads: { value: string; label: string }[];
  /** The lead who alone comes in with a password; empty where everybody may. */
  only: string;
}

/** What the claims of the sign-in service give here, and whether passwords let in beside it. */
export function SingleSignOn({ rules, gives, targets, leads, only }: Props) {
  const { pending, run } = useAction();
  const kept = leads.find(({ value }) => value === only);
  return (
    <>
      <p className={classes.soft}>
        Whoever the service vouches for by e-mail is known as the one on the staff with that e-mail. A claim may give a
        role and scopes, anew at each sign-in; what was given by hand stays. Somebody whom nobody knows comes in where a
        claim gives them a role.
      </p>
      <FormButton
        label="Add what a claim gives…"
        title="What a claim gives"
        fields={[
          { name: 'claim', label: 'Claim', description: 'Its name in the service’s answer, such as groups' },
          { name: 'value', label: 'Where it is, or holds' },
          {
            name: 'gives',
            label: 'It gives',
            type: 'choice',
            choices: gives.map((value) => ({ value, label: value })),
          },
          {
            name: 'target',
            label: 'Which, for a scope',
            type: 'offers',
            offers: ({ gives: given }) => targets[String(given).replace('scope ', '')] ?? [],
          },
        ]}
        values={{ gives: 'role mentor' }}
        verb="Add"
        keep={(values: FormOf<ClaimRuleInput>) => addClaimRule(values)}
      />
      {rules.length > 0 && (
        <PlainTable label="What claims give" mt="sm" heads={['Claim']} last="Actions">
          {rules.map(({ id, says }) => (
            <TableTr key={id}>
              <TableTd>
                <bdi>{says}</bdi>
              </TableTd>
              <TableTd>
                <Button
                  variant="default"
                  size="compact-xs"
                  loading={pending}
                  aria-label={`Remove ${says}`}
                  onClick={() => run(() => removeClaimRule(id), { done: 'Removed, from each one’s next sign-in on' })}
                >
                  Remove
                </Button>
              </TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
      <Group gap={8} mt="sm">
        {kept ? (
          <>
            <span>Everybody signs in by the service, but for {kept.label} with a password, in an emergency.</span>
            <Button
              variant="default"
              size="compact-sm"
              loading={pending}
              onClick={() => run(() => setOnlyByProvider(''), { done: 'Passwords let in again' })}
            >
              Let passwords in again
            </Button>
          </>
        ) : (
          <FormButton
            label="Have everybody sign in by the service…"
            button={{ size: 'compact-sm' }}
            title="Everybody by the service"
            says="Passwords and passkeys let nobody in any more but one lead, for when the service is away. What others have signed in with them ends now."
            fields={[{ name: 'lead', label: 'Lead for emergencies', type: 'choice', choices: leads }]}
            values={{ lead: leads[0]?.value ?? '' }}
            verb="Set it"
            keep={(values: { lead: string }) => setOnlyByProvider(values.lead)}
          />
        )}
      </Group>
    </>
  );
}
