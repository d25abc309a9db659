'use client';

import { Alert } from '@mantine/core';
import Link from 'next/link';
import { useState, type ComponentProps } from 'react';
import { sayCount } from '@/core/time/words';
import type { RecordState } from '@/server/sessions/record-state';
import { BringIn } from './bring-in';

type BringInProps = ComponentProps<typeof BringIn>;

interface Props {
  sessionId: string;
  columns: BringInProps['columns'];
  zone: string;
  remembered: BringInProps['remembered'];
}

/** How often it is asked how far an import is, in ms. */
const ASK = 400;

/** Brings a record in and says what became of it, row by row where some were not taken. */
export function BringInRecord({ sessionId, columns, zone, remembered }: Props) {
  const [state, setState] = useState<RecordState | null>(null);
  const path = `/sessions/${encodeURIComponent(sessionId)}`;
  const follow = async (id: number) => {
    for (;;) {
      const answer = await fetch(`${path}/record/state?import=${id}`).catch(() => null);
      const found: RecordState | null = answer?.ok ? await answer.json() : null;
      if (found) setState(found);
      if (found && (found.state === 'done' || found.state === 'failed')) return;
      await new Promise((resolve) => setTimeout(resolve, ASK));
    }
  };
  return (
    <>
      <BringIn
        columns={columns}
        zone={zone}
        remembered={remembered}
        session={sessionId}
        onSent={(id) => void follow(id)}
      />
      {state && (
        <Alert color={state.state === 'failed' ? 'red' : 'blue'} role="status" mt="sm">
          {state.state === 'failed' && state.error}
          {(state.state === 'waiting' || state.state === 'running') && 'Being taken …'}
          {state.state === 'done' && (
            <>
              {sayCount(state.accepted, 'row')} taken
              {state.duplicate > 0 && `, ${state.duplicate} there already`}
              {state.unmatched > 0 && `, ${state.unmatched} of nobody known`}
              {state.rejected > 0 && `, ${state.rejected} not taken`}. <Link href={path}>See the presence</Link>
              {state.rejects.map(([line, field, reason]) => (
                <div key={line}>
                  Line {line}: {field} {reason}
                </div>
              ))}
            </>
          )}
        </Alert>
      )}
    </>
  );
}
