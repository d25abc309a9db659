'use client';

import { Alert, Button, Code, Group } from '@mantine/core';
import { useState } from 'react';
import { PROTOCOLS, PROTOCOL_WORDS } from '@/core/feed/protocol';
import type { NewCredential } from '@/server/feed/sources';
import { FormButton } from '../../../_frame/form-button';
import { useAction } from '../../../_frame/use-action';
import { endCredential, makeCredential, addGap, settleGap } from '../actions';
import '@mantine/core/styles/Code.layer.css';

interface SettleProps {
  id: number;
  /** The gap in words. */
  what: string;
  /** Nobody has said yet. */
  open?: boolean;
  /** Is it held to be one? */
  is?: boolean;
  /** Is it the silence of a log that has stopped? */
  quiet?: boolean;
}

/** Says of a gap that it is one, or none. */
export function SettleGap({ id, what, open = false, is = false, quiet = false }: SettleProps) {
  const { pending, run } = useAction();
  const settle = (yes: boolean) =>
    run(() => settleGap(id, yes), {
      done: yes ? 'Its days are left out from now on' : 'Its days are counted',
    });
  return (
    <Group gap={6} wrap="nowrap">
      {(open || !is) && (
        <Button
          variant={open ? 'filled' : 'default'}
          size="compact-xs"
          loading={pending}
          onClick={() => settle(true)}
          aria-label={`A gap: ${what}`}
        >
          {open ? 'Confirm' : 'It is a gap'}
        </Button>
      )}
      {(open || is) && (
        <Button
          variant="default"
          size="compact-xs"
          loading={pending}
          onClick={() => settle(false)}
          aria-label={`${quiet ? 'It was truly quiet' : 'No gap'}: ${what}`}
        >
          {quiet ? 'It was truly quiet' : 'No gap'}
        </Button>
      )}
    </Group>
  );
}

/** Names a gap that the rhythm does not show. */
export function NameGap({ sources }: { sources: string[] }) {
  if (sources.length === 0) return null;
  return (
    <FormButton
      label="Name a gap…"
      title="Name a gap"
      says="A time for which the log of a source is incomplete, in the programme’s time zone."
      verb="Name"
      fields={[
        {
          name: 'source',
          label: 'Source',
          type: 'choice',
          choices: sources.map((name) => ({ value: name, label: name })),
        },
        { name: 'from', label: 'From', type: 'instant' },
        { name: 'to', label: 'To', type: 'instant' },
        { name: 'reason', label: 'Reason (may be left out)' },
      ]}
      values={{ source: sources[0] }}
      keep={addGap}
    />
  );
}

/** Makes a key and a secret for a source; the secret is shown once. */
export function AddCredential() {
  const [made, setMade] = useState<NewCredential | null>(null);
  return (
    <>
      {made && (
        <Alert my={8} color="ink" title={`For ${made.source}: note it now, it is not shown again`} role="status">
          Key <Code>{made.key}</Code> · secret <Code>{made.secret}</Code>
        </Alert>
      )}
      <FormButton
        label="Make a credential…"
        button={{ mt: 8 }}
        title="Make a credential"
        says="For a platform that sends events by itself. Give its source’s name; a new one is made."
        verb="Make"
        fields={[
          { name: 'source', label: 'Source' },
          {
            name: 'protocol',
            label: 'It sends',
            type: 'choice',
            choices: PROTOCOLS.map((value) => ({ value, label: PROTOCOL_WORDS[value] })),
          },
        ]}
        values={{ protocol: 'xapi' }}
        keep={makeCredential}
        onDone={setMade}
      />
    </>
  );
}

/** Ends a credential, after asking: what its source sends is refused from then on. */
export function EndCredential({ id, source }: { id: number; source: string }) {
  const { pending, run } = useAction();
  const [asked, setAsked] = useState(false);
  if (!asked) {
    return (
      <Button
        variant="default"
        size="compact-xs"
        onClick={() => setAsked(true)}
        aria-label={`End the one of ${source}`}
      >
        End…
      </Button>
    );
  }
  return (
    <Group gap={6}>
      <span>What {source} sends with it is refused then.</span>
      <Button size="compact-xs" loading={pending} onClick={() => run(() => endCredential(id), { done: 'Ended' })}>
        End it
      </Button>
      <Button variant="default" size="compact-xs" onClick={() => setAsked(false)}>
        Save it
      </Button>
    </Group>
  );
}
