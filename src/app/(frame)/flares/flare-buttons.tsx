'use client';

import { Button, Group } from '@mantine/core';
import { FormButton } from '../../_frame/form-button';
import { useAction } from '../../_frame/use-action';
import { endFlare, raiseFlare, seeFlare, type FlareEndForm, type FlareForm } from './actions';

interface RaiseProps {
  learner: number;
  name: string;
  /** Who would be called, each with what they are. */
  colleagues: readonly { id: number; name: string; role: string }[];
}

/** Raises a flare for a learner, from their page. */
export function RaiseFlare({ learner, name, colleagues }: RaiseProps) {
  return (
    <FormButton
      label="Raise a flare…"
      title={`A flare for ${name}`}
      says="Whoever is called is told on the screen, and by mail where they want it, and has to mark it as seen. The learner never sees it."
      fields={[
        { name: 'reason', label: 'Reason', type: 'lines', most: 1000 },
        {
          name: 'to',
          label: 'Calls',
          type: 'labels',
          names: colleagues.map((one) => ({ value: String(one.id), label: `${one.name}, ${one.role}` })),
        },
      ]}
      values={{ to: colleagues.map(({ id }) => String(id)) }}
      verb="Raise the flare"
      keep={(form: FlareForm) => raiseFlare(learner, form)}
    />
  );
}

/** What one does about a flare. */
export function FlareButtons({ id, name, isMine }: { id: number; name: string; isMine: boolean }) {
  const { pending, run } = useAction();
  return (
    <Group gap={6} wrap="nowrap">
      {isMine && (
        <Button
          size="compact-sm"
          loading={pending}
          aria-label={`Seen: the flare for ${name}`}
          onClick={() => run(() => seeFlare(id), { failed: 'It was not marked as seen' })}
        >
          Seen
        </Button>
      )}
      <FormButton
        label="End…"
        title={`End the flare for ${name}`}
        fields={[{ name: 'outcome', label: 'What came of it', type: 'lines', most: 1000 }]}
        values={{}}
        verb="End the flare"
        keep={(form: FlareEndForm) => endFlare(id, form)}
      />
    </Group>
  );
}
