'use client';

import { Button, Menu } from '@mantine/core';
import { useState } from 'react';
import type { DismissInput, ScoreInput } from '@/server/grades/grading';
import type { FormOf } from '@/server/request/input';
import { FormDialog } from '../../../../../_frame/form-dialog';
import { useAction } from '../../../../../_frame/use-action';
import { dismissAttempt, giveScore, settleScore } from '../../../../courses/actions';
import { WorkDialogs } from '../../../../courses/work-actions';

interface Props {
  learner: number;
  item: number;
  says: string;
  points: number | null;
  attempts: { number: number; isDismissed: boolean }[];
}

type Open = 'mark' | 'extend' | 'score' | 'dismiss' | 'back' | null;

/** What one does with an item of a learner. */
export function ItemActivity({ learner, item, says, points, attempts }: Props) {
  const [open, setOpen] = useState<Open>(null);
  const close = () => setOpen(null);
  const counting = attempts.filter(({ isDismissed }) => !isDismissed);
  const dismissed = attempts.filter(({ isDismissed }) => isDismissed);
  const choices = (some: Props['attempts']) =>
    some.map(({ number }) => ({ value: String(number), label: `attempt ${number}` }));
  const isDismissing = open === 'dismiss';
  return (
    <>
      <Menu position="bottom-end" shadow="md">
        <Menu.Target>
          <Button variant="default" size="compact-xs" aria-label={`Change: ${says}`}>
            Change…
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => setOpen('mark')}>Mark done or exempt…</Menu.Item>
          <Menu.Item onClick={() => setOpen('extend')}>Extend or excuse…</Menu.Item>
          <Menu.Item onClick={() => setOpen('score')}>Give a score…</Menu.Item>
          {counting.length > 0 && <Menu.Item onClick={() => setOpen('dismiss')}>Dismiss an attempt…</Menu.Item>}
          {dismissed.length > 0 && <Menu.Item onClick={() => setOpen('back')}>Take an attempt back…</Menu.Item>}
        </Menu.Dropdown>
      </Menu>
      <WorkDialogs
        open={open === 'mark' || open === 'extend' ? open : null}
        cells={{ pairs: [[learner, item]], says }}
        onClose={close}
      />
      {open === 'score' && (
        <FormDialog
          title="Give a score"
          says={`${says}. A later file with another score does not overwrite it: the two are shown to be settled.`}
          verb="Give"
          fields={[
            { name: 'score', label: 'Score', most: 12 },
            {
              name: 'points',
              label: 'Of so many points',
              description: points === null ? 'The item has none of its own' : undefined,
              most: 12,
            },
            { name: 'attempt', label: 'Attempt', most: 4 },
            { name: 'why', label: 'Why', placeholder: 'work on paper', most: 1000 },
            { name: 'feedback', label: 'Feedback', type: 'lines', lines: 2, most: 20_000 },
          ]}
          values={{ points: points === null ? '' : String(points), attempt: String(attempts.at(-1)?.number ?? 1) }}
          keep={(form: FormOf<ScoreInput>) => giveScore(learner, item, form)}
          onClose={close}
        />
      )}
      {(isDismissing || open === 'back') && (
        <FormDialog
          title={isDismissing ? 'Dismiss an attempt' : 'Take an attempt back'}
          says={`${says}. ${isDismissing ? 'It stays on record and counts for nothing.' : 'It counts again.'}`}
          verb={isDismissing ? 'Dismiss' : 'Take back'}
          fields={[
            { name: 'attempt', label: 'Which', type: 'choice', choices: choices(isDismissing ? counting : dismissed) },
            { name: 'why', label: 'Why', most: 1000 },
          ]}
          values={{ attempt: String((isDismissing ? counting : dismissed).at(-1)?.number) }}
          keep={(form: FormOf<DismissInput>) => dismissAttempt(learner, item, isDismissing, form)}
          onClose={close}
        />
      )}
    </>
  );
}

interface DifferenceProps {
  learner: number;
  item: number;
  attempt: number;
  ours: string;
  theirs: string;
  mayChange: boolean;
}

/** A score given here that a file has otherwise: somebody says which stands. */
export function SettleDifference({ learner, item, attempt, ours, theirs, mayChange }: DifferenceProps) {
  const { pending, run } = useAction();
  const settle = (take: 'ours' | 'theirs') => run(() => settleScore(learner, item, attempt, take), { done: 'Settled' });
  return (
    <span>
      {` · a file that came later says ${theirs}. `}
      {mayChange && (
        <>
          <Button variant="default" size="compact-xs" disabled={pending} onClick={() => settle('ours')}>
            {ours} stands
          </Button>{' '}
          <Button variant="default" size="compact-xs" disabled={pending} onClick={() => settle('theirs')}>
            Take {theirs}
          </Button>
        </>
      )}
    </span>
  );
}
