'use client';

import { Button, Group } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import { CHANNEL_WORDS } from '@/core/contact/recipient';
import type { LearnerDetails, OtherContact } from '@/data/people/contact-details';
import { FormDialog, type Field } from '../../../_deck/form-dialog';
import { changeDetails, dropContact, keepContact } from './actions';
import classes from './learner.module.css';

interface Props {
  learnerId: number;
  /** Null for somebody who may not change them. */
  details: LearnerDetails | null;
  contacts: OtherContact[];
  lead: boolean;
}

const REACH: Field[] = [
  { name: 'email', label: 'E-mail', type: 'email' },
  { name: 'phone', label: 'Phone', type: 'tel' },
  {
    name: 'preferred_channel',
    label: 'Prefers',
    choices: [
      { value: '', label: 'not said' },
      { value: 'email', label: CHANNEL_WORDS.email },
      { value: 'sms', label: CHANNEL_WORDS.sms },
    ],
  },
  { name: 'timezone', label: 'Own time zone', description: 'Such as Europe/Lisbon; empty for the programme’s.' },
];
const WHO: Field[] = [
  { name: 'given_name', label: 'Given name' },
  { name: 'family_name', label: 'Family name' },
  { name: 'organisation', label: 'Organisation' },
];
const CONTACT: Field[] = [
  { name: 'name', label: 'Name' },
  { name: 'relation', label: 'Relation', offers: ['family', 'employer', 'supervisor', 'interpreter'] },
  { name: 'phone', label: 'Phone', type: 'tel' },
  { name: 'email', label: 'E-mail', type: 'email' },
];

function strings(values: object): Record<string, string> {
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value ?? '')]));
}

/** How a learner is reached, and whom else one may speak to. */
export function Details({ learnerId, details, contacts, lead }: Props) {
  const [editing, setEditing] = useState(false);
  const [contact, setContact] = useState<OtherContact | 'new' | null>(null);
  const drop = async (one: OtherContact) => {
    const result = await dropContact(learnerId, one.id);
    notifications.show(
      result.ok
        ? { title: `${one.name} removed`, message: 'What was there stands under Changes.' }
        : { title: 'It was not removed', message: result.says, color: 'red' },
    );
  };
  return (
    <div>
      {contacts.map((one) => (
        <div key={one.id} className={classes.other}>
          <strong>
            <bdi>{one.name}</bdi>
          </strong>
          <span className={classes.soft}>{one.relation}</span>
          <span>
            {one.phone && <a href={`tel:${one.phone.replace(/[^\d+]/g, '')}`}>{one.phone}</a>} {one.email}
          </span>
          {details && (
            <Group gap={4}>
              <Button variant="subtle" size="compact-xs" onClick={() => setContact(one)}>
                Edit
              </Button>
              <Button variant="subtle" size="compact-xs" onClick={() => void drop(one)}>
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
          fields={lead ? [...WHO, ...REACH] : REACH}
          values={strings(details)}
          verb="Keep the details"
          keep={(form) => changeDetails(learnerId, form)}
          onClose={() => setEditing(false)}
        />
      )}
      {contact && (
        <FormDialog
          title={contact === 'new' ? 'Another contact' : contact.name}
          fields={CONTACT}
          values={contact === 'new' ? {} : strings(contact)}
          verb="Keep the contact"
          keep={(form) => keepContact(learnerId, contact === 'new' ? null : contact.id, form)}
          onClose={() => setContact(null)}
        />
      )}
    </div>
  );
}
