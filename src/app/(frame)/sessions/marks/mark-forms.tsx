'use client';

import { Alert, Button, Group, Modal, Radio, Stack, TextInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { sayCount } from '@/core/time/words';
import type { FormOf } from '@/server/request/input';
import type { MarkEffect, MarkInput, RuleInput } from '@/server/sessions/marks';
import { FormButton } from '../../../_frame/form-button';
import { choicesOf } from '../../../_frame/choices';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { useForm } from '../../../_frame/use-form';
import { endMark, saveMark, saveRules, previewMark } from '../actions';
import '@mantine/core/styles/RadioIndicator.layer.css';
import '@mantine/core/styles/Radio.layer.css';

const COUNTS = choicesOf({ yes: 'it counts', no: 'it does not count' });

export function AddMark() {
  return (
    <FormButton<FormOf<MarkInput>, void>
      label="Add a mark…"
      title="Add a mark"
      verb="Add"
      fields={[
        { name: 'label', label: 'Word', placeholder: 'left early', most: 30 },
        { name: 'credit', label: 'Credit, from 0 to 1', placeholder: '0.5', most: 6 },
        { name: 'counts', label: 'In the rate', type: 'radio', choices: COUNTS },
      ]}
      values={{ credit: '0', counts: 'yes' }}
      keep={(form) => saveMark(null, form)}
    />
  );
}

interface ChangeProps {
  code: string;
  label: string;
  credit: number;
  counts: boolean;
}

/** Changes a mark; what that does to rates there are is said before it is kept. */
export function ChangeMark(props: ChangeProps) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button variant="default" size="compact-xs" onClick={() => setOpen(true)} aria-label={`Change ${props.label}`}>
        Change…
      </Button>
      {open && <ChangeDialog {...props} onClose={() => setOpen(false)} />}
    </>
  );
}

const percent = (value: number | null) => (value === null ? 'no rate' : `${(100 * value).toFixed(1)} %`);

/** How long nothing is typed before the effect is asked for, in ms. */
const PAUSE = 300;

function ChangeDialog({ code, label, credit, counts, onClose }: ChangeProps & { onClose: () => void }) {
  const form = useForm<FormOf<MarkInput>, void>({
    values: { label, credit: String(credit), counts: counts ? 'yes' : 'no' },
    keep: (values) => saveMark(code, values),
  });
  const [effect, setEffect] = useState<MarkEffect | null>(null);
  const { credit: worth, counts: counted } = form.values;
  useEffect(() => {
    let wanted = true;
    const timer = setTimeout(async () => {
      const result = await previewMark(code, { label, credit: worth, counts: counted }).catch(() => null);
      if (wanted) setEffect(result?.ok ? result.value : null);
    }, PAUSE);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [code, label, worth, counted]);
  return (
    <Modal opened onClose={onClose} title={`Change the mark ${label}`}>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          form.submit({}, onClose);
        }}
      >
        <Stack gap="sm">
          <TextInput label="Word" maxLength={30} data-autofocus {...form.field('label')} />
          <TextInput label="Credit, from 0 to 1" maxLength={6} {...form.field('credit')} />
          <Radio.Group label="In the rate" value={form.values.counts} onChange={(value) => form.set({ counts: value })}>
            <Group mt={4}>
              {COUNTS.map((choice) => (
                <Radio key={choice.value} {...choice} />
              ))}
            </Group>
          </Radio.Group>
          <div role="status">
            {effect &&
              (effect.learners === 0
                ? 'No rate that there is changes by it.'
                : `The rates of ${sayCount(effect.learners, 'learner')} of ${effect.of} change; the mean goes from ${percent(effect.before)} to ${percent(effect.after)}.`)}
            {effect && effect.most.length > 0 && (
              <ul>
                {effect.most.map((one) => (
                  <li key={one.learner_id}>
                    {one.name}: {percent(one.before)} to {percent(one.after)}
                  </li>
                ))}
              </ul>
            )}
          </div>
          {form.trouble && (
            <Alert color="red" role="alert">
              {form.trouble}
            </Alert>
          )}
          <Group>
            <Button type="submit" loading={form.pending}>
              Save
            </Button>
            <Button variant="default" onClick={onClose}>
              Cancel
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}

interface EndProps {
  code: string;
  label: string;
  ended: boolean;
}

export function EndMark({ code, label, ended }: EndProps) {
  const { pending, run } = useAction();
  const again = () =>
    run(() => endMark(code, false), {
      done: `“${label}” is given again`,
      undo: () => endMark(code, true),
    });
  if (ended)
    return (
      <Button variant="subtle" size="compact-xs" loading={pending} onClick={again} aria-label={`Give ${label} again`}>
        Give it again
      </Button>
    );
  return (
    <FormButton
      label="No longer give it…"
      button={{ variant: 'subtle', size: 'compact-xs', 'aria-label': `No longer give ${label}` }}
      title={`No longer give “${label}”?`}
      says="No roll offers it from now on. Records that have it keep it, and it counts in them as before."
      verb="End it"
      fields={[]}
      values={{}}
      keep={() => endMark(code, true)}
      onDone={() => offerUndo(`“${label}” is no longer given`, again)}
    />
  );
}

interface RulesProps {
  course: string;
  title: string;
  form: FormOf<RuleInput>;
}

export function ChangeRules({ course, title, form }: RulesProps) {
  return (
    <FormButton<FormOf<RuleInput>, void>
      label="Change…"
      button={{ size: 'compact-xs' }}
      title={title}
      says="Suggested marks and drift are worked out anew; marks that were given stay."
      verb="Save"
      fields={[
        { name: 'absent_under', label: 'Absent under this share of the session, per cent', most: 3 },
        { name: 'present_from', label: 'Present from this share on, per cent', most: 3 },
        { name: 'grace_minutes', label: 'In time within so many minutes after the start', most: 3 },
        { name: 'late_after', label: 'A check-in is late after so many minutes', most: 3 },
      ]}
      values={form}
      keep={(values) => saveRules(course, values)}
    />
  );
}
