'use client';

import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { useAction } from '../../../_frame/use-action';
import { usePending } from '../../../_frame/use-pending';
import { startWriting } from '../../write/actions';
import { readAnswer } from '../actions';

interface Props {
  replyId: number;
  /** The learner's number; null for an answer of nobody known. */
  learner: number | null;
  isRead: boolean;
}

/** What one does with an answer where it stands: write back, and say that it is read. */
export function ReadAnswer({ replyId, learner, isRead }: Props) {
  const { pending, run } = useAction();
  const [opening, start] = usePending();
  const [refused, setRefused] = useState<string | null>(null);
  return (
    <Group gap={8} mt={6}>
      {learner !== null && (
        <Button
          loading={opening}
          onClick={() =>
            start(async () => {
              if (!isRead) await readAnswer(replyId, true);
              setRefused(await startWriting([learner], '/follow-ups/answers'));
            })
          }
        >
          Write back
        </Button>
      )}
      <Button variant="default" loading={pending} onClick={() => run(() => readAnswer(replyId, !isRead))}>
        {isRead ? 'Mark as unread' : 'Mark as read'}
      </Button>
      {refused && <span role="alert">{refused}</span>}
    </Group>
  );
}
