'use client';

import { Button, Group } from '@mantine/core';
import { FormButton } from '../../_frame/form-button';
import { useAction } from '../../_frame/use-action';
import { endFlare, raiseFlare, seeFlare, type FlareEndForm, type FlareForm } from './actions';

/** Raises a flare for a learner, from their page. */
export function RaiseFlare({ learner, name }: { learner: number; name: string }) {
  return (
    <FormButton
      label="Raise a flare…"
      title={`A flare for ${name}`}
      says="Everybody around them is called, on the screen and by mail for those who want it, and has to mark it as seen. The learner never sees it."
      fields={[{ name: 'reason', label: 'Reason', type: 'lines', most: 1000 }]}
      values={{}}
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
