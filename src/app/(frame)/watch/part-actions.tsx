'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import type { Part } from '@/core/drift/order';
import { sayCount } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import type { HandOverInput } from '@/server/drift/part-actions';
import type { FormOf } from '@/server/request/input';
import { FormDialog } from '../../_frame/form-dialog';
import { offerUndo } from '../../_frame/offer-undo';
import type { Field } from '../../_frame/form-field';
import { takeBackFollowUps } from '../../_people/actions';
import { startWriting } from '../write/actions';
import { colleaguesFor, everybodyMatching, handOverLearners, resumeEnrolments, settleLeft } from './actions';
import { usePending } from '../../_frame/use-pending';
import classes from './watch.module.css';

interface Message {
  subject: string;
  body: string;
}

interface PartActionWords {
  /** What the part is. */
  says: string;
  /** What its message is called, and its text. */
  write?: Message & { label: (count: number) => string };
  canHandOver?: boolean;
  canSettle?: boolean;
}

const ACTIONS: Readonly<Record<Exclude<Part, 'now'>, PartActionWords>> = {
  contacted: {
    says: 'Somebody tried to reach them in the last 28 days. They are back on the list when they answer, when a follow-up’s day comes, or when they came back and are adrift again.',
  },
  away: {
    says: 'Not there for 14 counted days or more, the longest first.',
    write: {
      label: (count) => `Write a last try to ${count}`,
      subject: 'Is {{course}} still for you?',
      body: 'Hello {{given_name}},\n\nwe last saw you in {{course}} on {{last_access}}. Your place is still there, and it is not too late to go on: {{next_due}} would be next.\n\nIf you would rather stop, a short answer is enough, and nobody will write again.\n\n{{my_name}}',
    },
    canHandOver: true,
    canSettle: true,
  },
  never: {
    says: 'Enrolled, or their course begun, for 7 counted days or more, and never there.',
    write: {
      label: (count) => `Write the welcome message to ${count}`,
      subject: 'Welcome to {{course}}',
      body: 'Hello {{given_name}},\n\nyour place in {{course}} is ready. The first page takes ten minutes; after that you know your way about. If anything is in the way of it, answer this.\n\n{{my_name}}',
    },
    canHandOver: true,
    canSettle: true,
  },
};

interface Props {
  part: Exclude<Part, 'now'>;
  /** How many are listed. */
  count: number;
  isLead: boolean;
  today: number;
  /** This list's address, to come back to. */
  here: string;
}

type Handing = FormOf<HandOverInput>;

/** What a part of the Watch is, and what one does about all that are listed in it. */
export function PartActions({ part, count, isLead, today, here }: Props) {
  const { says, write, canHandOver, canSettle } = ACTIONS[part];
  const [pending, start] = usePending();
  const [handing, setHanding] = useState<{ ids: number[]; fields: Field<Handing>[]; to: string } | null>(null);
  const [leaving, setLeaving] = useState<number[] | null>(null);
  const query = here.split('?')[1] ?? '';
  const fail = (title: string, message: string) => notifications.show({ title, message, color: 'red' });
  const withAll = (does: (ids: number[]) => Promise<void>) => start(async () => does(await everybodyMatching(query)));
  const hand = async (ids: number[]) => {
    const colleagues = await colleaguesFor(query, ids);
    if (colleagues.length === 0) {
      fail('Nobody to hand over to', 'No colleague sees all of these learners.');
      return;
    }
    setHanding({
      ids,
      to: String(colleagues[0].id),
      fields: [
        {
          name: 'to',
          label: 'To',
          type: 'choice',
          choices: colleagues.map(({ id, name, role }) => ({ value: String(id), label: `${name}, ${role}` })),
        },
        { name: 'reason', label: 'What to look at', most: 300 },
        { name: 'due', label: 'By', type: 'day' },
      ],
    });
  };
  const undoable = (says: string, undo: () => Promise<{ ok: boolean }>, undone: string) =>
    offerUndo(says, async () => {
      const result = await undo();
      notifications.show({ title: result.ok ? undone : 'That could not be undone', message: '' });
    });
  return (
    <div className={classes.deeds}>
      <span className={classes.soft}>{says}</span>
      {count > 0 && write && (
        <Button
          loading={pending}
          onClick={() =>
            withAll(async (ids) => {
              const refused = await startWriting(ids, here, {
                subject: write.subject,
                body: write.body,
                is_about: 'yes',
              });
              if (refused) fail('No message was begun', refused);
            })
          }
        >
          {write.label(count)}
        </Button>
      )}
      {count > 0 && canHandOver && (
        <Button variant="default" loading={pending} onClick={() => withAll(hand)}>
          Hand over…
        </Button>
      )}
      {count > 0 && canSettle && isLead && (
        <Button variant="default" loading={pending} onClick={() => withAll(async (ids) => setLeaving(ids))}>
          They have left…
        </Button>
      )}
      {handing && (
        <FormDialog
          title={`Hand over ${sayCount(handing.ids.length, 'learner')}`}
          says="Your colleague gets a follow-up on each of them."
          fields={handing.fields}
          values={{ to: handing.to, reason: '', due: dateOfDay(today + 7) }}
          verb="Hand over"
          keep={(form: Handing) => handOverLearners(query, handing.ids, form)}
          onClose={() => setHanding(null)}
          onDone={(ids) =>
            undoable(`${sayCount(ids.length, 'learner')} handed over`, () => takeBackFollowUps(ids), 'Taken back')
          }
        />
      )}
      {leaving && (
        <FormDialog
          title={`Settle that ${sayCount(leaving.length, 'learner')} left`}
          says="Their enrolments in what you look at end today, as withdrawn. They leave the Watch; nothing of theirs is removed, and they can be enrolled again."
          fields={[]}
          values={{}}
          verb="They have left"
          keep={() => settleLeft(query, leaving)}
          onClose={() => setLeaving(null)}
          onDone={(ids) =>
            undoable(`${sayCount(ids.length, 'enrolment')} ended`, () => resumeEnrolments(ids), 'Enrolled again')
          }
        />
      )}
    </div>
  );
}
