'use client';

import { Alert, Button, Group } from '@mantine/core';
import type { FormOf } from '@/server/request/input';
import type { ErasureInput } from '@/server/privacy/erasing';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { askErasure, takeBackErasure } from './actions';

interface Props {
  learnerId: string;
  name: string;
  /** Until when their erasure can be taken back, in words; null where none was asked for. */
  until: string | null;
  /** Backups in which they are and stay. */
  backups: readonly string[];
}

/** What is held on somebody, to hand over or to erase. */
export function TheirData({ learnerId, name, until, backups }: Props) {
  const held =
    backups.length === 0
      ? 'Backups made before then still hold them.'
      : `Backups made before then still hold them, of those noted: ${backups.slice(0, 5).join(', ')}${backups.length > 5 ? ` and ${backups.length - 5} more` : ''}.`;
  const record = `/api/v1/learners/${encodeURIComponent(learnerId)}/record`;
  return (
    <Group gap={8}>
      {(['pdf', 'json'] as const).map((format) => (
        <Button key={format} component="a" variant="default" size="compact-sm" href={`${record}?format=${format}`}>
          Everything held, as {format.toUpperCase()}
        </Button>
      ))}
      {until === null && (
        <FormButton
          label="Erase…"
          button={{ size: 'compact-sm' }}
          title={`Erase ${name}?`}
          says={`In 14 days, and until then it can be taken back. Their name, ids, addresses, messages, notes, answers and everything written by or about them go for good; what counts without them stays, as of somebody erased. ${held}`}
          fields={[{ name: 'reason', label: 'Why, for whoever may take it back', type: 'lines', most: 1000 }]}
          values={{}}
          verb="Erase in 14 days"
          keep={(form: FormOf<ErasureInput>) => askErasure(learnerId, form)}
        />
      )}
    </Group>
  );
}

/** That somebody is to be erased, and taking it back. */
export function ErasureNotice({ learnerId, until }: { learnerId: string; until: string }) {
  const { pending, run } = useAction();
  return (
    <Alert color="red" role="status" my="sm">
      <Group gap={12}>
        <span>They will be erased on {until}.</span>
        <Button
          variant="default"
          size="compact-sm"
          loading={pending}
          onClick={() =>
            run(() => takeBackErasure(learnerId), {
              done: 'Taken back: nothing is erased',
              failed: 'It was not taken back',
            })
          }
        >
          Take it back
        </Button>
      </Group>
    </Alert>
  );
}
