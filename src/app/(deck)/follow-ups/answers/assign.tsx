'use client';

import { Button, Group, TextInput } from '@mantine/core';
import { useState, useTransition } from 'react';
import { assignTo } from '../actions';

/** Says whose an answer is, by the learner's id, or that it is nobody's. */
export function Assign({ replyId }: { replyId: number }) {
  const [learnerId, setLearnerId] = useState('');
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const go = (to: string) =>
    startTransition(async () => {
      const result = await assignTo(replyId, to);
      setTrouble(result.ok ? null : result.says);
    });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (learnerId.trim()) go(learnerId);
      }}
    >
      <Group gap={8} align="end" mt={6}>
        <TextInput
          size="xs"
          label="It is by the learner with the id"
          value={learnerId}
          error={trouble}
          maxLength={200}
          onChange={(event) => setLearnerId(event.currentTarget.value)}
        />
        <Button type="submit" loading={pending}>
          It is theirs
        </Button>
        <Button variant="default" disabled={pending} onClick={() => go('')}>
          Nobody’s
        </Button>
      </Group>
    </form>
  );
}
