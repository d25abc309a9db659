'use client';

import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { CHANNEL_WORDS } from '@/core/contact/recipient';
import type { LearnerDetails } from '@/data/people/contact-details';
import type { ContactOfLearner } from '@/server/people/learner-page';
import type { FormOf } from '@/server/request/input';
import type { LearnerInput, OtherContactInput } from '@/server/people/roster-input';
import { FormDialog } from '../../../_frame/form-dialog';
import type { Field } from '../../../_frame/form-field';
import { useAction } from '../../../_frame/use-action';
import { changeDetails, removeContact, saveContact } from './actions';
import classes from './learner.module.css';

interface Props {
  learnerId: number;
  /** Null for somebody who may not change them. */
  details: LearnerDetails | null;
  contacts: ContactOfLearner[];
  lead: boolean;
}

const ITEM_USE: Field<Partial<FormOf<LearnerInput>>>[] = [
  { name: 'email', label: 'E-mail', type: 'email' },
  { name: 'phone', label: 'Phone', type: 'tel' },
  {
    name: 'preferred_channel',
    label: 'Prefers',
    type: 'choice',
    choices: [
      { value: '', label: 'not said' },
      { value: 'email', label: CHANNEL_WORDS.email },
      { value: 'sms', label: CHANNEL_WORDS.sms },
    ],
  },
  { name: 'timezone', label: 'Own time zone', description: 'Such as Europe/Lisbon; empty for the programme’s.' },
];
const WHO: Field<Partial<FormOf<LearnerInput>>>[] = [
  { name: 'given_name', label: 'Given name' },
  { name: 'family_name', label: 'Family name' },
  { name: 'organisation', label: 'Organisation' },
];
const CONTACT: Field<FormOf<OtherContactInput>>[] = [
  { name: 'name', label: 'Name' },
  { name: 'relation', label: 'Relation', type: 'offers', offers: ['family', 'employer', 'supervisor', 'interpreter'] },
  { name: 'phone', label: 'Phone', type: 'tel' },
  { name: 'email', label: 'E-mail', type: 'email' },
  {
    name: 'may_receive',
    label: 'May receive reports on the learner',
    type: 'choice',
    choices: [
      { value: 'no', label: 'no' },
      { value: 'yes', label: 'yes, they agreed to it' },
    ],
  },
  {
    name: 'allowed_words',
    label: 'In whose words',
    most: 300,
    shown: ({ may_receive }) => may_receive === 'yes',
  },
];

function strings(values: object): Record<string, string> {
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value ?? '')]));
}

/** "may receive reports since 3 Nov: she asked for it herself". */
function sayAllowed({ may_receive, allowedSince, allowed_words }: ContactOfLearner): string {
  if (may_receive !== 1) return 'receives no reports';
  const since = allowedSince === null ? '' : ` since ${allowedSince}`;
  return `may receive reports${since}${allowed_words === '' ? '' : `: ${allowed_words}`}`;
}

/** How a learner is reached, and whom else one may speak to. */
export function Details({ learnerId, details, contacts, lead }: Props) {
  const [editing, setEditing] = useState(false);
  const [contact, setContact] = useState<ContactOfLearner | 'new' | null>(null);
  const { run } = useAction();
  const drop = (one: ContactOfLearner) =>
    run(() => removeContact(learnerId, one.id), {
      done: `${one.name} removed: what was there stands under Changes`,
      failed: 'It was not removed',
    });
  return (
    <div>
      {contacts.map((contact) => (
        <div key={contact.id} className={classes.other}>
          <strong>
            <bdi>{contact.name}</bdi>
          </strong>
          <span className={classes.soft}>{contact.relation}</span>
          <span>
            {contact.phone && <a href={`tel:${contact.phone.replace(/[^\d+]/g, '')}`}>{contact.phone}</a>}{' '}
            {contact.email}
          </span>
          <span className={classes.soft}>{sayAllowed(contact)}</span>
          {details && (
            <Group gap={4}>
              <Button variant="subtle" size="compact-xs" onClick={() => setContact(contact)}>
                Edit
              </Button>
              <Button variant="subtle" size="compact-xs" onClick={() => drop(contact)}>
                Remove
              </Button>
            </Group>
          )}
        </div>
      ))}
      {contacts.length === 0 && <p className={classes.soft}>Nobody else is named to speak to.</p>}
      {details && (
        <Group gap={8} mt={6}>
          <Button variant="default" size="compact-xs" onClick={() => setContact('new')}>
            Add a contact
          </Button>
          <Button variant="default" size="compact-xs" onClick={() => setEditing(true)}>
            Edit the details
          </Button>
        </Group>
      )}
      {editing && details && (
        <FormDialog
          title="Details"
          fields={lead ? [...WHO, ...ITEM_USE] : ITEM_USE}
          values={strings(details)}
          verb="Save the details"
          keep={(form: Partial<FormOf<LearnerInput>>) => changeDetails(learnerId, form)}
          onClose={() => setEditing(false)}
        />
      )}
      {contact && (
        <FormDialog
          title={contact === 'new' ? 'Another contact' : contact.name}
          fields={CONTACT}
          values={
            contact === 'new'
              ? { may_receive: 'no' }
              : { ...strings(contact), may_receive: contact.may_receive ? 'yes' : 'no' }
          }
          verb="Save the contact"
          keep={(form: FormOf<OtherContactInput>) =>
            saveContact(learnerId, contact === 'new' ? null : contact.id, form)
          }
          onClose={() => setContact(null)}
        />
      )}
    </div>
  );
}
