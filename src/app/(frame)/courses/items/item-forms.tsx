'use client';

import { Button, Modal } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState } from 'react';
import { ATTEMPT_POLICIES, POLICY_WORDS } from '@/core/work/attempt';
import { sayCount, plural } from '@/core/time/words';
import type { ItemEffect, ItemInput } from '@/server/courses/course-rules';
import type { FormOf } from '@/server/request/input';
import { choicesOf } from '../../../_frame/choices';
import type { Field } from '../../../_frame/form-field';
import { FormDialog } from '../../../_frame/form-dialog';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { changeItem, previewItem, removeItem } from '../actions';

type Form = FormOf<ItemInput>;

interface Props {
  course: string;
  item: string;
  title: string;
  values: Form;
  categories: string[];
}

const YES_NO = choicesOf({ yes: 'yes', no: 'no' });

function sayChange([before, after]: [number, number], what: string): string {
  return before === after ? `${what}: ${before}, as now` : `${what}: ${before} now, ${after} then`;
}

/** Changes an item, after it has been seen whom that concerns. */
export function ChangeItem({ course, item, title, values, categories }: Props) {
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState<{ form: Partial<Form>; effect: ItemEffect } | null>(null);
  const { pending, run } = useAction();
  const fields: Field<Form>[] = [
    {
      name: 'done_when',
      label: 'Done when',
      placeholder: 'handed_in;score>=50%',
      description: 'Empty: as its kind has it',
    },
    { name: 'due_at', label: 'Due', type: 'instant', atEnd: true },
    { name: 'points', label: 'Points', most: 12 },
    { name: 'category', label: 'Category', type: 'offers', offers: categories },
    {
      name: 'policy',
      label: 'Which attempt counts',
      type: 'choice',
      choices: ATTEMPT_POLICIES.map((value) => ({ value, label: POLICY_WORDS[value] })),
    },
    { name: 'required', label: 'Required', type: 'choice', choices: YES_NO },
    { name: 'must', label: 'Must be done before the course’s end', type: 'choice', choices: YES_NO },
    {
      name: 'stage',
      label: 'A unit’s check',
      type: 'choice',
      choices: choicesOf({ none: 'no', before: 'at its beginning', after: 'at its end' }),
    },
    { name: 'url', label: 'Where it lives', placeholder: 'https://', most: 1000 },
  ];
  const changed = (form: Form): Partial<Form> =>
    Object.fromEntries(Object.entries(form).filter(([name, value]) => value !== values[name as keyof Form]));
  return (
    <>
      <Button variant="default" size="compact-xs" onClick={() => setOpen(true)}>
        Change…
      </Button>
      {open && (
        <FormDialog
          title={title}
          verb="See what that changes"
          fields={fields}
          values={values}
          keep={async (form: Form) => {
            const result = await previewItem(course, item, changed(form));
            return result.ok ? { ...result, value: { form: changed(form), effect: result.value } } : result;
          }}
          onClose={() => setOpen(false)}
          onDone={setAsked}
        />
      )}
      {asked && (
        <Modal opened onClose={() => setAsked(null)} title={title}>
          {Object.keys(asked.form).length === 0 ? (
            <p>Nothing would be changed.</p>
          ) : (
            <ul>
              <li>
                {asked.effect.workedOn === 0
                  ? 'Nobody has worked on it yet.'
                  : `${sayCount(asked.effect.workedOn, 'learner')} have worked on it.`}
              </li>
              <li>{sayChange(asked.effect.done, 'Done by')}</li>
              <li>{sayChange(asked.effect.overdue, 'Overdue for')}</li>
              <li>
                {asked.effect.grades === 0
                  ? 'No mean on graded work changes.'
                  : `${sayCount(asked.effect.grades, 'mean')} on graded work ${plural(asked.effect.grades, 'changes', 'change')}.`}
              </li>
            </ul>
          )}
          <Button
            loading={pending}
            disabled={Object.keys(asked.form).length === 0}
            onClick={() =>
              run(() => changeItem(course, item, asked.form), {
                done: 'Item changed',
                then: () => setAsked(null),
              })
            }
          >
            Change it
          </Button>{' '}
          <Button variant="default" onClick={() => setAsked(null)}>
            Cancel
          </Button>
        </Modal>
      )}
    </>
  );
}

/** Takes an item out of the course, or has it back. */
export function RemoveItem({
  course,
  item,
  title,
  isRemoved,
}: Pick<Props, 'course' | 'item' | 'title'> & { isRemoved: boolean }) {
  const { pending, run } = useAction();
  const set = (removed: boolean) =>
    run(() => removeItem(course, item, removed), {
      then: (learners) => {
        if (!removed) {
          notifications.show({ title: `${title} is back`, message: '' });
          return;
        }
        const whom = learners === 0 ? '' : `: ${sayCount(learners, 'learner')} had worked on it, which is kept`;
        offerUndo(`${title} removed${whom}`, () => set(false));
      },
    });
  return (
    <Button variant="default" size="compact-xs" disabled={pending} onClick={() => set(!isRemoved)}>
      {isRemoved ? 'Have it back' : 'Remove'}
    </Button>
  );
}
